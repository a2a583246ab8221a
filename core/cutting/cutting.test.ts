import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply, rotation, scaling, chain, translation, type Point } from '../geometry/matrix';
import { distanceTo, flatten, rectanglePath } from '../geometry/path';
import { seededRandom } from '../geometry/random';
import { fitAffine } from './affine';
import { HPGL_PER_MM, readHpgl, writeHpgl } from './hpgl';
import { depths, orderCuts, travel, type CutLine } from './order';

const coordinate = fc.double({ min: -2000, max: 2000, noNaN: true });
const point = fc.record({ x: coordinate, y: coordinate });

const knives = (overcut: number) => {
  const knife = { speed: 30, force: 80, overcut };
  return { 'kiss cut': knife, crease: knife, perforation: knife, 'through cut': knife };
};

describe('HPGL', () => {
  it('comes back as it was sent, to half a step', () => {
    fc.assert(
      fc.property(fc.array(fc.array(point, { minLength: 2, maxLength: 150 }), { minLength: 1, maxLength: 4 }), (lines) => {
        const back = readHpgl(
          writeHpgl(
            lines.map((points) => ({ points, closed: false, tool: 'kiss cut' })),
            knives(0)
          )
        );
        expect(back).toHaveLength(lines.length);
        lines.forEach((points, i) => {
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
    const [line] = readHpgl(
      writeHpgl(
        flatten(rectanglePath({ x: 10, y: 10, width: 20, height: 10 }), 0.1).map((line) => ({ ...line, tool: 'kiss cut' })),
        knives(2)
      )
    );
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

describe('registration', () => {
  const marks: Point[] = [
    { x: 5, y: 5 },
    { x: 605, y: 5 },
    { x: 5, y: 405 },
    { x: 605, y: 405 },
    { x: 23, y: 5 }
  ];

  it('fits an affine map exactly', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -30, max: 30, noNaN: true }),
        fc.double({ min: 0.9, max: 1.1, noNaN: true }),
        point,
        (angle, stretch, shift) => {
          const truth = chain(chain(scaling(stretch, 1), rotation(angle)), translation(shift.x, shift.y));
          const map = fitAffine(marks.map((from) => ({ from, to: apply(truth, from) })));
          map.forEach((value, i) => expect(value).toBeCloseTo(truth[i] ?? NaN, 6));
        }
      )
    );
  });
});

describe('the order of cutting', () => {
  const square = (x: number, y: number, size: number, tool: CutLine['tool'] = 'kiss cut'): CutLine => ({
    ...(flatten(rectanglePath({ x, y, width: size, height: size }), 0.1)[0] as CutLine),
    tool
  });

  it('cuts inner lines before outer ones, and kiss before through', () => {
    const lines = [square(0, 0, 100, 'through cut'), square(10, 10, 50), square(20, 20, 10), square(200, 0, 20)];
    expect(depths(lines)).toEqual([0, 1, 2, 0]);
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
});
