import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Jig, NEW_JIG, pocketsOf } from '../layout/jig';
import { homographyOf, inverse, project, residualOf } from './homography';
import { proposalOf } from './proposal';
import type { FoundThing } from './things';

const thing = (x: number, y: number, turn = 0, longMm = 60, shortMm = 40): FoundThing => ({
  x,
  y,
  turn,
  longMm,
  shortMm,
  fills: 1
});
const base = Jig.parse({ ...NEW_JIG, bed: { widthMm: 1000, lengthMm: 700 } });
const placesOf = (jig: Jig) => pocketsOf(jig).filter(({ isOff }) => !isOff);

describe('a jig of what was found', () => {
  it('has a place where each thing lies, in a grid or not, whatever is missing', () => {
    const missing = fc.array(fc.integer({ min: 0, max: 19 }), { maxLength: 6 });
    fc.assert(
      fc.property(missing, fc.integer({ min: 62, max: 90 }), fc.boolean(), fc.infiniteStream(fc.integer({ min: -20, max: 20 })), (gone, pitch, isShifted, off) => {
          const things = Array.from({ length: 20 }, (_, i) => i)
            .filter((i) => !gone.includes(i))
            .map((i) => {
              const [column, row] = [i % 5, Math.floor(i / 5)];
              const half = isShifted && row % 2 === 1 ? pitch / 2 : 0;
              return thing(100 + column * pitch + half + off.next().value! / 20, 80 + row * 55 + off.next().value! / 20, off.next().value! / 10);
            });
          const { jig, things: count } = proposalOf(things, base);
          expect(count).toBe(things.length);
          const places = placesOf(jig);
          expect(places).toHaveLength(things.length);
          for (const { x, y, turn } of things) {
            const nearest = places.reduce((p, q) => (Math.hypot(p.x - x, p.y - y) < Math.hypot(q.x - x, q.y - y) ? p : q));
            expect(Math.hypot(nearest.x - x, nearest.y - y)).toBeLessThan(0.08);
            expect(Math.abs(((nearest.turn - turn + 540) % 360) - 180)).toBeLessThan(0.11);
          }
        }
      ),
      { numRuns: 60 }
    ); // prettier-ignore
  });

  it('is a plain grid where it is one, with the thing upright', () => {
    const things = [0, 1, 2].flatMap((column) => [0, 1].map((row) => thing(100 + 50 * column, 90 + 70 * row, 90)));
    const { jig, inGrid } = proposalOf(things, base);
    expect(inGrid).toBe(true);
    expect(jig).toMatchObject({
      columns: 3,
      rows: 2,
      gapX: 10,
      gapY: 10,
      startX: 80,
      startY: 60,
      nudges: {},
      off: [],
      shift: 'none'
    });
    expect(jig.thing).toMatchObject({ widthMm: 40, heightMm: 60 });
  });

  it('tells discs and rounded corners by what of their box they fill', () => {
    const of = (fills: number) => proposalOf([{ ...thing(200, 200), fills }], base).jig.thing.outline;
    expect(of(Math.PI / 4)).toEqual({ kind: 'ellipse' });
    expect(of(1)).toEqual({ kind: 'rectangle', radiusMm: 0 });
    expect(of(1 - ((4 - Math.PI) * 100) / 2400)).toEqual({ kind: 'rectangle', radiusMm: 10 });
  });

  it('has a place for each of more than a thousand that lie anyhow', () => {
    const things = Array.from({ length: 1200 }, (_, i) => thing(20 + (i % 40) * 24 + ((i * 7) % 5), 20 + Math.floor(i / 40) * 22 + ((i * 3) % 7), i % 30, 10, 8)); // prettier-ignore
    const { jig, inGrid } = proposalOf(things, base);
    expect(inGrid).toBe(false);
    expect([jig.columns, jig.rows, placesOf(jig).length]).toEqual([1000, 2, 1200]);
  });

  it('keeps things that lie anyhow, each in its own place', () => {
    const things = [thing(100, 100), thing(171, 123, 30), thing(140, 260, -20), thing(300, 111, 5), thing(222, 205)];
    const { jig, inGrid } = proposalOf(things, base);
    expect(inGrid).toBe(false);
    expect(placesOf(jig).map(({ x, y }) => [Math.round(x), Math.round(y)]).sort()).toEqual(things.map(({ x, y }) => [x, y]).sort()); // prettier-ignore
  });
});

describe('a plane as a camera sees it', () => {
  it('goes there and back, and is found again from points of it', () => {
    const coordinate = fc.double({ min: -0.2, max: 0.2, noNaN: true });
    fc.assert(
      fc.property(fc.tuple(...Array.from({ length: 8 }, () => coordinate)), (shifts) => {
        const plane = [{ x: 0, y: 0 }, { x: 1000, y: 0 }, { x: 1000, y: 700 }, { x: 0, y: 700 }, { x: 500, y: 350 }]; // prettier-ignore
        const four = plane.slice(0, 4).map((from, i) => ({ from, to: { x: from.x * 2 + 300 * shifts[2 * i]!, y: from.y * 2 + 300 * shifts[2 * i + 1]! } })); // prettier-ignore
        const h = homographyOf(four);
        const seen = plane.map((from) => ({ from, to: project(h, from) }));
        const again = homographyOf(seen);
        expect(residualOf(again, seen)).toBeLessThan(1e-4);
        const back = project(inverse(again), project(h, { x: 333, y: 222 }));
        expect([back.x, back.y]).toEqual([expect.closeTo(333, 3), expect.closeTo(222, 3)]);
      })
    );
    expect(() => homographyOf([])).toThrow('Four points at least');
  });
});
