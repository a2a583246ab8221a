import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply, chain, rotation, translation } from '../geometry/matrix';
import { Jig, NEW_JIG, outlineOf, stockJigOf } from './jig';
import { firstTouched, fromOrigin, MOST_DISAGREEMENT_MM, mountedJig } from './mounted-jig';
import { CORNERS, type StockJig, type Touched } from './placement';

const SHEET = { width: 1000, height: 700 };
const kept = (over: Partial<Jig> = {}): StockJig =>
  stockJigOf(1, Jig.parse({ ...NEW_JIG, bed: { widthMm: 600, lengthMm: 400 }, columns: 4, rows: 3, ...over }));
const FRONT = { side: 'front' as const, touched: [] };

describe('a jig on the sheet', () => {
  it('lies at the machine’s own corner, whichever that is', () => {
    const at = (origin: (typeof CORNERS)[number]) => {
      const jig = kept({ bed: { widthMm: 600, lengthMm: 400, origin } });
      const { pockets } = mountedJig(jig, SHEET, FRONT);
      return [pockets[0]!.x - jig.pockets[0]!.x, pockets[0]!.y - jig.pockets[0]!.y];
    };
    expect(CORNERS.map(at)).toEqual([[0, 0], [400, 0], [0, 300], [400, 300]]); // prettier-ignore
  });

  it('turned over has what lay at the left at the right, and twice is as it was', () => {
    const jig = kept({
      thing: { widthMm: 80, heightMm: 50, outline: { kind: 'path', data: 'M0 0L80 0L80 50Z' } },
      nudges: { '1.1': { dx: 3, dy: -2, turn: 20 } }
    });
    const back = mountedJig(jig, { width: 600, height: 400 }, { side: 'back', touched: [] });
    const [was, is] = [jig.pockets[0]!, back.pockets[0]!];
    expect([is.x, is.y, is.turn]).toEqual([600 - was.x, was.y, 340]);
    expect(back.thing.outline[0]![0]).toEqual({ x: 80, y: 0 });
    expect(mountedJig(back, { width: 600, height: 400 }, { side: 'back', touched: [] })).toEqual(jig);
  });

  it('by touched points lies as it was laid in, turned and moved, whatever corner is counted from', () => {
    const mm = (most: number) => fc.double({ min: -most, max: most, noNaN: true });
    fc.assert(
      fc.property(
        mm(3),
        mm(15),
        mm(15),
        fc.constantFrom(...CORNERS),
        fc.constantFrom('front' as const, 'back' as const),
        fc.constantFrom<Touched['at'][]>(
          ['front left', 'front right', 'back left'],
          [1, 4, 'back right'],
          ['front left', 6, 12, 'back left']
        ),
        (turn, dx, dy, origin, side, points) => {
          const plate = { x: 20, y: 10, widthMm: 520, lengthMm: 300 };
          const jig = kept({ bed: { widthMm: 600, lengthMm: 400, origin }, plate });
          const should = mountedJig(jig, SHEET, { side, touched: [] });
          const truth = chain(chain(translation(-500, -350), rotation(turn)), translation(500 + dx, 350 + dy));
          // Where the points of the jig as it should lie come to, told as the machine counts.
          const corner = (at: (typeof CORNERS)[number]) => ({
            x: (origin.endsWith('left') ? 0 : 400) + (side === 'back' ? 60 : 20) + (at.endsWith('left') ? 0 : 520),
            y: (origin.startsWith('front') ? 0 : 300) + 10 + (at.startsWith('front') ? 0 : 300)
          });
          const touched = points.map((at) => {
            const nominal = typeof at === 'number' ? should.pockets.find(({ number }) => number === at)! : corner(at);
            return { at, ...fromOrigin(SHEET, origin, apply(truth, nominal)) };
          });
          const is = mountedJig(jig, SHEET, { side, touched });
          expect(is.fault).toBeUndefined();
          expect(is.lay!.turn).toBeCloseTo(turn, 6);
          expect(is.lay!.residualMm).toBeLessThan(1e-6);
          is.pockets.forEach((pocket, i) => {
            const to = apply(truth, should.pockets[i]!);
            expect([pocket.x, pocket.y]).toEqual([expect.closeTo(to.x, 5), expect.closeTo(to.y, 5)]);
          });
        }
      )
    );
  });

  it('is offered the points that say it lies as it should, at whatever corner of a larger sheet, either side up', () => {
    for (const origin of CORNERS)
      for (const side of ['front', 'back'] as const) {
        const plate = { x: 20, y: 10, widthMm: 520, lengthMm: 300 };
        const jig = kept({ bed: { widthMm: 600, lengthMm: 400, origin }, plate });
        const laid = mountedJig(jig, SHEET, { side, touched: [] });
        const touched = firstTouched(laid, SHEET);
        expect(touched.map(({ at }) => at)).toContain(origin);
        const { lay, pockets } = mountedJig(jig, SHEET, { side, touched });
        expect(lay).toEqual({ turn: 0, dx: 0, dy: 0, residualMm: 0 });
        expect(pockets).toEqual(laid.pockets);
      }
  });

  it('is not placed in where the points say nothing that can be, each with the figure', () => {
    const fault = (touched: Touched[]) => mountedJig(kept(), SHEET, { side: 'front', touched }).fault;
    const three = (third: Partial<Touched>): Touched[] => [
      { at: 'front left', x: 0, y: 0 },
      { at: 'front right', x: 600, y: 0 },
      { at: 'back left', x: 0, y: 400, ...third }
    ];
    expect(fault(three({}))).toBeUndefined();
    expect(fault(three({}).slice(0, 2))).toBe('2 points are touched; 3 say how a jig lies.');
    expect(fault(three({ at: 99 }))).toMatch('has no pocket 99');
    expect(fault(three({ y: 402 }))).toMatch(new RegExp(`do not agree: they are .* mm off one lay; ${MOST_DISAGREEMENT_MM} mm`));
    expect(fault(three({}).map(({ x, y, at }) => ({ at, x: y, y: x })))).toMatch('Touch the points again');
    expect(fault([1, 1, 1].map((at) => ({ at, x: 5, y: 5 })))).toMatch('within 0 mm of each other');
  });

  it('keeps its outline where it is not turned over', () => {
    const jig = kept();
    expect(mountedJig(jig, SHEET, FRONT).thing).toEqual({ width: 80, height: 50, outline: outlineOf(NEW_JIG.thing) });
  });
});
