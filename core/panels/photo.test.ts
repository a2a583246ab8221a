import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply } from '../geometry/matrix';
import { wallToPhoto } from './photo';

describe('a wall on its photo', () => {
  it('lies so that both points are where they were put, at one scale', () => {
    const share = fc.double({ min: 0, max: 1, noNaN: true });
    const mm = fc.integer({ min: -1000, max: 9000 });
    const point = fc.record({ u: share, v: share, x: mm, y: mm });
    fc.assert(
      fc.property(point, point, fc.double({ min: 0.3, max: 3, noNaN: true }), (p, q, aspect) => {
        fc.pre(Math.hypot(p.x - q.x, p.y - q.y) > 10 && Math.hypot(p.u - q.u, p.v - q.v) > 0.01);
        const matrix = wallToPhoto({ points: [p, q], aspect })!;
        for (const { u, v, x, y } of [p, q]) {
          const at = apply(matrix, { x, y });
          expect(at.x).toBeCloseTo(u, 6);
          expect(at.y).toBeCloseTo(v * aspect, 6);
        }
        const [a, b, c, d] = matrix;
        expect(Math.hypot(a, b)).toBeCloseTo(Math.hypot(c, d), 12);
        expect(a * d - b * c).toBeGreaterThan(0);
      })
    );
  });

  it('lies nowhere where the two points are one', () => {
    const p = { u: 0.2, v: 0.3, x: 0, y: 0 };
    expect(wallToPhoto({ points: [p, p], aspect: 1 })).toBeUndefined();
    expect(wallToPhoto({ points: [p, { ...p, x: 900 }], aspect: 1 })).toBeUndefined();
  });
});
