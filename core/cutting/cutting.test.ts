import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Point } from '../geometry/matrix';
import { distanceTo, flatten, rectanglePath } from '../geometry/path';
import { seededRandom } from '../geometry/random';
import { strokesOf } from './blade';
import { HPGL_PER_MM, readHpgl, writeHpgl } from './hpgl';
import type { Knife, KnifeChoice } from '../media/knife';
import { orderCuts, parents, stretchesOf, travel, type CutLine } from './order';
import { shortTour } from './tour';

/** Thousandths of a millimetre: two places are one, or clearly apart. */
const coordinate = fc.integer({ min: -2e6, max: 2e6 }).map((v) => v / 1000);
const point = fc.record({ x: coordinate, y: coordinate });

/** All tools alike: no offset, one pass. */
const knives = (knife: Partial<Knife>): KnifeChoice => {
  const one: Knife = { blade: 'drag knife', speed: 30, force: 80, overcut: 0, offset: 0, passes: 1, liftAngle: 180, ...knife };
  return { 'kiss cut': one, crease: one, perforation: one, 'through cut': one };
};
/** What a plotter makes of lines. */
const plotted = (lines: readonly CutLine[], knife: Partial<Knife>): Point[][] =>
  readHpgl(writeHpgl(strokesOf(lines, knives(knife)), knives(knife)));

const square = (x: number, y: number, size: number, tool: CutLine['tool'] = 'kiss cut'): CutLine => ({
  ...(flatten(rectanglePath({ x, y, width: size, height: size }), 0.1)[0] as CutLine),
  tool
});

describe('HPGL', () => {
  it('comes back as it was sent, to half a step', () => {
    fc.assert(
      fc.property(fc.array(fc.array(point, { minLength: 2, maxLength: 150 }), { minLength: 1, maxLength: 4 }), (lines) => {
        const apart = lines.map((points) =>
          points.filter((p, i) => i === 0 || Math.hypot(p.x - points[i - 1]!.x, p.y - points[i - 1]!.y) > 1e-6)
        );
        fc.pre(apart.every((points) => points.length > 1));
        const back = plotted(
          apart.map((points) => ({ points, closed: false, tool: 'kiss cut' })),
          {}
        );
        expect(back).toHaveLength(apart.length);
        apart.forEach((points, i) => {
          expect(back[i]).toHaveLength(points.length);
          points.forEach((p, j) => {
            expect(Math.abs((back[i]?.[j]?.x ?? 9e9) - p.x)).toBeLessThanOrEqual(0.5001 / HPGL_PER_MM);
            expect(Math.abs((back[i]?.[j]?.y ?? 9e9) - p.y)).toBeLessThanOrEqual(0.5001 / HPGL_PER_MM);
          });
        });
      })
    );
  });

  it('closes a line and cuts a little past its start', () => {
    const [line] = plotted([square(10, 10, 20)], { overcut: 2 });
    expect(line?.at(-1)).toEqual({ x: 12, y: 10 });
    expect(line?.filter((p) => p.x === 10 && p.y === 10)).toHaveLength(2);
  });

  it('follows relative moves', () => {
    expect(readHpgl('IN;PA;PU400,400;PR;PD40,0,0,40;')).toEqual([
      [
        { x: 10, y: 10 },
        { x: 11, y: 10 },
        { x: 11, y: 11 }
      ]
    ]);
  });
});

describe('the order of cutting', () => {
  it('cuts inner lines before outer ones, and kiss before through', () => {
    const lines = [square(0, 0, 100, 'through cut'), square(10, 10, 50), square(20, 20, 10), square(200, 0, 20)];
    expect(parents(lines)).toEqual([-1, 0, 1, -1]);
    const areas = orderCuts(lines).map((line) => Math.abs(line.points[0]!.x - line.points[2]!.x));
    expect(areas.indexOf(10)).toBeLessThan(areas.indexOf(50));
    expect(areas.at(-1)).toBe(100);
  });

  it('shortens the travel, and keeps every line as it was', () => {
    const random = seededRandom(4);
    const lines = Array.from({ length: 120 }, () => square(random() * 1000, random() * 1000, 5));
    const ordered = orderCuts(lines);
    expect(ordered).toHaveLength(120);
    expect(travel(ordered)).toBeLessThan(travel(lines) / 4);
    for (const line of ordered) {
      const source = lines.find((l) => line.points.every((p) => distanceTo(l, p) < 1e-9));
      expect(source).toBeDefined();
    }
  });

  it('begins closed lines off their corners, and the same lines in any order come to the same way', () => {
    const lines = Array.from({ length: 30 }, (_, i) => square(40 * (i % 6), 40 * Math.floor(i / 6), 20));
    for (const { points } of orderCuts(lines)) {
      const [start, next] = [points[0]!, points[1]!];
      expect(Math.hypot(start.x - next.x, start.y - next.y)).toBeGreaterThan(0.9);
      expect(points).toHaveLength(5);
    }
  });

  it('works along a long run stretch by stretch, all tools of one before the next', () => {
    const lines = Array.from({ length: 40 }, (_, i) => [
      square(10, 200 * i, 100, 'through cut'),
      square(20, 200 * i + 10, 50),
      { points: [{ x: 5, y: 200 * i }, { x: 5, y: 200 * i + 90 }], closed: false, tool: 'crease' as const } // prettier-ignore
    ]).flat();
    const stretches = stretchesOf(lines, 1000);
    expect(stretches.flat()).toHaveLength(lines.length);
    for (const stretch of stretches) {
      const ys = stretch.flatMap(({ points }) => points.map(({ y }) => y));
      expect(Math.max(...ys) - Math.min(...ys)).toBeLessThanOrEqual(1000);
    }
    const ordered = orderCuts(lines, 1000);
    const rows = ordered.map(({ points }) => Math.floor(points[0]!.y / 1000));
    expect(rows).toEqual([...rows].sort((a, b) => a - b));
    const inFirst = ordered.filter((_, i) => rows[i] === 0).map(({ tool }) => tool);
    expect([...new Set(inFirst)]).toEqual(['kiss cut', 'crease', 'through cut']);
    // One line that is longer than the reach is cut in a stretch of its own.
    expect(stretchesOf([square(0, 0, 3000), square(10, 10, 20)], 1000)).toHaveLength(2);
  });
});

describe('a tour', () => {
  const places = (count: number, random: () => number) =>
    Array.from({ length: count }, () => ({ x: 100 * random(), y: 100 * random() }));
  const lengthOf = (all: readonly Point[], order: readonly number[]) =>
    order.reduce(
      (sum, a, i) =>
        sum + Math.hypot(all[a]!.x - all[order[(i + 1) % order.length]!]!.x, all[a]!.y - all[order[(i + 1) % order.length]!]!.y),
      0
    );
  const best = (all: readonly Point[]): number => {
    const [first, ...rest] = all.map((_, i) => i);
    const ways = (left: number[]): number[][] =>
      left.length < 2 ? [left] : left.flatMap((one) => ways(left.filter((other) => other !== one)).map((way) => [one, ...way]));
    return Math.min(...ways(rest).map((way) => lengthOf(all, [first!, ...way])));
  };

  it('of few places is the shortest of all', () => {
    const random = seededRandom(11);
    for (let round = 0; round < 40; round++) {
      const all = places(4 + (round % 4), random);
      expect(lengthOf(all, shortTour(all))).toBeCloseTo(best(all), 6);
    }
  });

  it('has each place once, from the first on, whatever they are', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ x: fc.integer({ min: 0, max: 12 }), y: fc.integer({ min: 0, max: 5 }) }), { maxLength: 120 }),
        (all) => {
          const order = shortTour(all);
          expect([...order].sort((a, b) => a - b)).toEqual(all.map((_, i) => i));
          if (all.length > 0) expect(order[0]).toBe(0);
        }
      ),
      { numRuns: 60 }
    );
  });

  it('of a lattice is at most a twentieth longer than its shortest', () => {
    const all = Array.from({ length: 400 }, (_, i) => ({ x: i % 20, y: Math.floor(i / 20) }));
    expect(lengthOf(all, shortTour(all))).toBeLessThan(420);
  });
});
