import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Point } from '../geometry/matrix';
import { homographyOf, inverse, project, residualOf, type Homography } from './homography';
import { median } from './median';
import { PhotoError, rectifyByCorners } from './targets';

const near = (p: Point, q: Point, within: number) => expect(Math.hypot(p.x - q.x, p.y - q.y)).toBeLessThan(within);
const BED = { widthMm: 1000, lengthMm: 600 };
const PLACES = [0, 300, 700, 1000].flatMap((x) => [0, 200, 600].map((y) => ({ x, y })));

/** A bed as a hand-held camera sees it: turned, smaller, and its far edge shorter than its near one. */
const view: fc.Arbitrary<Homography> = fc
  .record({
    turn: fc.integer({ min: 0, max: 359 }),
    scale: fc.integer({ min: 5, max: 40 }).map((v) => v / 10),
    tiltX: fc.integer({ min: -25, max: 25 }).map((v) => v / 1e5),
    tiltY: fc.integer({ min: -25, max: 25 }).map((v) => v / 1e5),
    x: fc.integer({ min: -500, max: 3000 }),
    y: fc.integer({ min: -500, max: 3000 })
  })
  .map(({ turn, scale, tiltX, tiltY, x, y }) => {
    const [c, s] = [scale * Math.cos((turn * Math.PI) / 180), scale * Math.sin((turn * Math.PI) / 180)];
    return [c + x * tiltX, -s + x * tiltY, x, s + y * tiltX, c + y * tiltY, y, tiltX, tiltY, 1];
  });

describe('how a plane is seen', () => {
  it('is found from four places and from many, and led back', () => {
    fc.assert(
      fc.property(view, (h) => {
        const all = PLACES.map((from) => ({ from, to: project(h, from) }));
        const corners = [0, 2, 9, 11].map((i) => all[i]!);
        for (const found of [homographyOf(corners), homographyOf(all)]) {
          for (const { from, to } of all) {
            near(project(found, from), to, 1e-4);
            near(project(inverse(found), to), from, 1e-4);
          }
          expect(residualOf(found, all)).toBeLessThan(1e-4);
        }
      })
    );
    expect(() => homographyOf([])).toThrow('Four points at least');
  });

  it('leaves as much as the places are off, shared by all of them', () => {
    fc.assert(
      fc.property(view, fc.integer({ min: 1, max: 20 }), (h, off) => {
        const seen = PLACES.map((from, i) => ({ from, to: project(h, { x: from.x + (i % 2 ? off : -off), y: from.y }) }));
        const left = residualOf(homographyOf(seen), seen);
        expect(left).toBeGreaterThan(off * 0.3);
        expect(left).toBeLessThan(off * 1.5);
      })
    );
  });

  it('is known by the corners of the bed that a person shows, in their order round it', () => {
    fc.assert(
      fc.property(view, (h) => {
        const { widthMm: w, lengthMm: l } = BED;
        const corners = [{ x: 0, y: 0 }, { x: w, y: 0 }, { x: w, y: l }, { x: 0, y: l }].map((p) => project(h, p)); // prettier-ignore
        const { toPicture, residualMm, marks } = rectifyByCorners(corners, BED);
        expect([residualMm, marks]).toEqual([0, 0]);
        near(project(toPicture, { x: w / 3, y: l / 4 }), project(h, { x: w / 3, y: l / 4 }), 1e-4);
        const [a, b, c, d] = corners as [Point, Point, Point, Point];
        // The other way round, crossed, in a line, or too few.
        for (const wrong of [
          [d, c, b, a],
          [a, c, b, d],
          [a, b, { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 }, d],
          [a, b, c]
        ])
          // prettier-ignore
          expect(() => rectifyByCorners(wrong, BED)).toThrow(PhotoError);
      })
    );
  });
});

it('a median is what half of a list is not above, and not below', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: -50, max: 50 }), { minLength: 1, maxLength: 20 }), (list) => {
      const middle = median(list);
      expect(list.filter((v) => v < middle).length).toBeLessThanOrEqual(list.length / 2);
      expect(list.filter((v) => v > middle).length).toBeLessThanOrEqual(list.length / 2);
      expect(median([...list].reverse())).toBe(middle);
    })
  );
});
