import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { pieceKey } from './pieces';
import { sumOfInk, timesInk } from '../inks/ink-prices';
import type { Placement } from './placement';
import { evenSides } from '../geometry/box';
import { copiesIn, countedInk, inkCounted, runCosts, shareOf, sharesOf, takenBy, type Rates } from './run-costs';

const PRESS = { widthMm: 1000, headMm: 50, passes: 5, carriageMmPerS: 500, turnS: 1 };
const RATES: Rates = { press: PRESS, times: 1, mediaPerM2: 4, machinePerHour: 36 };
const part = (length: number, ...ids: string[]) => ({ length, copies: ids.map((id, copy) => ({ id, copy })) });
const layoutOf = (parts: ReturnType<typeof part>[]): Placement => {
  const length = parts.reduce((sum, one) => sum + one.length, 0);
  return { parts, length, areaM2: length / 1000, wasteShare: 0.25 } as unknown as Placement;
};

describe('what a run costs', () => {
  it('is its media, its machine and its ink', () => {
    // 10 mm a swath: 101 and 50 of them, 3 s each.
    const costs = runCosts(layoutOf([part(1001, '1'), part(500, '2')]), 10, RATES);
    expect(costs).toMatchObject({ seconds: 453, ink: 10 });
    expect([costs.media, costs.time, costs.all].map((n) => n.toFixed(3))).toEqual(['6.004', '4.530', '20.534']);
  });

  it('is as often as it is printed; its ink is told for all of them', () => {
    const layout = layoutOf([part(1000, '1')]);
    expect(runCosts(layout, 10, { ...RATES, times: 3 })).toEqual({ seconds: 900, media: 12, time: 9, ink: 10, all: 31 });
  });

  it('says no time where the machine is not known or nothing lies there', () => {
    expect(runCosts(layoutOf([part(1000, '1')]), 0, { ...RATES, press: null })).toMatchObject({ seconds: null, time: 0, all: 4 });
    expect(runCosts(layoutOf([]), 0, RATES)).toMatchObject({ seconds: null, all: 0 });
  });
});

/** So much ink at 0.5 a ml; and the same share of both. */
const use = (ml: number) => ({ ml, cost: ml / 2 });
const both = (share: number) => ({ ml: share, cost: share });

describe('what a docket takes of a run', () => {
  const piece = (widthMm: number, heightMm: number, bleed = 0) => ({ widthMm, heightMm, bleed: evenSides(bleed) });

  it('is the area of its copies with their bleed, and the ink that each was measured with', () => {
    const pieces = new Map([['1', piece(100, 200)], ['2', piece(90, 90, 5)], ['3', piece(50, 50)]]); // prettier-ignore
    const layout = layoutOf([part(500, '1', '1', '2'), part(500, '1')]);
    expect(copiesIn(layout)).toBe(4);
    const taken = takenBy(layout, pieces, 2, (id) => use(id === '1' ? 3 : 0));
    expect(taken).toEqual(new Map([[1, { areaM2: 0.12, ink: use(18) }], [2, { areaM2: 0.02, ink: use(0) }]])); // prettier-ignore
    // The third lies nowhere.
    expect(shareOf(3, taken, runCosts(layout, 9, RATES), 0, use(18))).toBeUndefined();
  });

  it('is of a wall what its panels are of it', () => {
    const panels = [0, 1].map((n) => pieceKey({ docket: '1', piece: n }));
    const pieces = new Map([[panels[0]!, piece(50, 200)], [panels[1]!, piece(25, 200)]]); // prettier-ignore
    const layout = layoutOf([part(500, ...panels)]);
    const taken = takenBy(layout, pieces, 1, (id) => use(id === panels[0] ? 4 : 2));
    expect(taken.get(1)).toEqual({ areaM2: 0.015, ink: use(6) });
  });

  it('is its own ink, and by area what is printed beside all', () => {
    const taken = new Map([[1, { areaM2: 3, ink: use(6) }], [2, { areaM2: 1, ink: use(2) }]]); // prettier-ignore
    expect(sharesOf(taken)).toEqual(new Map([[1, { area: 0.75, ink: both(0.75) }], [2, { area: 0.25, ink: both(0.25) }]])); // prettier-ignore
    const pale = sharesOf(new Map([[1, { areaM2: 3, ink: use(0) }], [2, { areaM2: 1, ink: use(8) }]]), use(10)); // prettier-ignore
    expect(pale.get(1)!.ink.ml).toBeCloseTo(0.15, 9);
    expect(pale.get(2)!.ink.cost).toBeCloseTo(0.85, 9);
    // Nothing is known of it: by area.
    expect(sharesOf(new Map([[1, { areaM2: 3, ink: use(0) }], [2, { areaM2: 1, ink: use(0) }]]), use(5)).get(2)!.ink.ml).toBeCloseTo(0.25, 9); // prettier-ignore
  });

  it('is what its own inks cost: white may be dearer than colour', () => {
    const inkByDocket = { 1: [9, 0], 2: [0, 1] };
    const { all, byDocket } = countedInk({ inkMl: [9, 1], inkByDocket }, [null, 1.1], 0.1);
    expect([all, byDocket!.get(2)]).toEqual([
      { ml: 10, cost: expect.closeTo(2, 9) },
      { ml: 1, cost: 1.1 }
    ]);
    const taken = new Map([[1, { areaM2: 1, ink: use(0) }], [2, { areaM2: 1, ink: use(0) }]]); // prettier-ignore
    const shares = sharesOf(inkCounted(taken, byDocket!, 2), timesInk(all, 2));
    expect(shares.get(2)!.ink).toEqual({ ml: expect.closeTo(0.1, 9), cost: expect.closeTo(0.55, 9) });
    expect(countedInk({ inkMl: [9, 1] }, [], 0.1)).toEqual({ all: { ml: 10, cost: expect.closeTo(1, 9) }, byDocket: undefined });
  });

  it('adds up to the whole', () => {
    const some = fc.record({ width: fc.integer({ min: 10, max: 500 }), height: fc.integer({ min: 10, max: 500 }), copies: fc.integer({ min: 1, max: 9 }), ml: fc.double({ min: 0, max: 50, noNaN: true }), price: fc.double({ min: 0, max: 2, noNaN: true }) }); // prettier-ignore
    fc.assert(
      fc.property(
        fc.array(some, { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 1, max: 5 }),
        fc.nat(9),
        (list, times, marks) => {
          const layout = layoutOf(list.map(({ copies }, id) => part(300, ...Array<string>(copies).fill(`${id}`))));
          const pieces = new Map(list.map(({ width, height }, id) => [`${id}`, piece(width, height)]));
          const taken = takenBy(layout, pieces, times, (id) => {
            const { ml, price } = list[Number(id)]!;
            return { ml, cost: ml * price };
          });
          const all = sumOfInk([...[...taken.values()].map(({ ink }) => ink), use(marks)]);
          const costs = runCosts(layout, all.cost, { ...RATES, times });
          const shares = list.map((_, id) => shareOf(id, taken, costs, layout.wasteShare, all)!);
          expect(shares.reduce((sum, { cost }) => sum + cost, 0)).toBeCloseTo(costs.all, 6);
          expect(shares.reduce((sum, { waste }) => sum + waste, 0)).toBeCloseTo(costs.media * 0.25, 6);
        }
      )
    );
  });
});
