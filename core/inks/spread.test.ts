import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Point } from '../geometry/matrix';
import { CELLS, shareWithin, spreadOf } from './spread';

const box = { x: -3, y: 5, width: 60, height: 40 };
const rectangle = (x: number, y: number, width: number, height: number): Point[] => [
  { x, y },
  { x: x + width, y },
  { x: x + width, y: y + height },
  { x, y: y + height }
];
const EVEN = spreadOf(200, 100, () => 1).spread;

describe('the spread of ink over a picture', () => {
  it('has the sum of all pixels, whatever their number', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 90 }), fc.integer({ min: 1, max: 90 }), (width, height) => {
        const { sum, spread } = spreadOf(width, height, (pixel) => pixel % 7);
        expect(sum).toBe(Array.from({ length: width * height }, (_, i) => i % 7).reduce((all, one) => all + one, 0));
        expect(spread).toHaveLength(CELLS * CELLS);
        expect(Math.max(...spread)).toBe(sum > 0 ? 255 : 0);
      })
    );
  });

  it('of an even picture tells the share of its area, holes left out', () => {
    fc.assert(
      fc.property(fc.tuple(fc.nat(30), fc.nat(20), fc.integer({ min: 1, max: 30 }), fc.integer({ min: 1, max: 20 })), (at) => {
        const [x, y, width, height] = at;
        const ring = rectangle(box.x + x, box.y + y, width, height);
        expect(shareWithin(EVEN, box, [ring])).toBeCloseTo((width * height) / 2400, 1);
        expect(shareWithin(EVEN, box, [rectangle(-9, 0, 99, 99), ring])).toBeCloseTo(1 - (width * height) / 2400, 1);
      })
    );
    const round = Array.from({ length: 90 }, (_, i) => ({
      x: 27 + 20 * Math.cos(i / 14.324),
      y: 25 + 20 * Math.sin(i / 14.324)
    }));
    expect(shareWithin(EVEN, box, [round])).toBeCloseTo((Math.PI * 400) / 2400, 2);
    expect(shareWithin(EVEN, box, [])).toBe(0);
  });

  it('counts what is there, not the area', () => {
    // All of it in the left third.
    const { spread } = spreadOf(120, 60, (pixel) => (pixel % 120 < 40 ? 2 : 0));
    expect(shareWithin(spread, box, [rectangle(-3, 5, 20, 40)])).toBeCloseTo(1);
    expect(shareWithin(spread, box, [rectangle(17, 5, 40, 40)])).toBe(0);
    expect(shareWithin(spread, box, [rectangle(-3, 5, 10, 20)])).toBeCloseTo(0.25);
    expect(shareWithin(spreadOf(10, 10, () => 0).spread, box, [rectangle(-3, 5, 60, 40)])).toBe(0);
  });
});
