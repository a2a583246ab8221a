import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { pieceKey } from './pieces';
import type { Placement } from './placement';
import { copiesIn, runCosts, shareOf, takenBy, type Rates } from './run-costs';

const PRESS = { widthMm: 1000, headMm: 50, passes: 5, carriageMmPerS: 500, turnS: 1 };
const RATES: Rates = { press: PRESS, times: 1, mediaPerM2: 4, machinePerHour: 36, inkPerMl: 0.5 };
const part = (length: number, ...ids: string[]) => ({ length, copies: ids.map((id, copy) => ({ id, copy })) });
const layoutOf = (parts: ReturnType<typeof part>[]): Placement => {
  const length = parts.reduce((sum, one) => sum + one.length, 0);
  return { parts, length, areaM2: length / 1000, wasteShare: 0.25 } as unknown as Placement;
};
const choices = (widthMm: number, heightMm: number, bleedMm = 0) => ({ widthMm, heightMm, bleedMm, stack: null });

describe('what a run costs', () => {
  it('is its media, its machine and its ink', () => {
    // 10 mm a swath: 101 and 50 of them, 3 s each.
    const costs = runCosts(layoutOf([part(1001, '1'), part(500, '2')]), 20, RATES);
    expect(costs).toMatchObject({ seconds: 453, ink: 10 });
    expect([costs.media, costs.time, costs.all].map((n) => n.toFixed(3))).toEqual(['6.004', '4.530', '20.534']);
  });

  it('is as often as it is printed; its ink is told for all of them', () => {
    const layout = layoutOf([part(1000, '1')]);
    expect(runCosts(layout, 20, { ...RATES, times: 3 })).toEqual({ seconds: 900, media: 12, time: 9, ink: 10, all: 31 });
  });

  it('says no time where the machine is not known or nothing lies there', () => {
    expect(runCosts(layoutOf([part(1000, '1')]), 0, { ...RATES, press: null })).toMatchObject({ seconds: null, time: 0, all: 4 });
    expect(runCosts(layoutOf([]), 0, RATES)).toMatchObject({ seconds: null, all: 0 });
  });
});

describe('what a docket takes of a run', () => {
  const dockets = [
    { id: 1, choices: choices(100, 200) },
    { id: 2, choices: choices(90, 90, 5) }
  ];

  it('is the area of its copies with their bleed, and the ink that each was measured with', () => {
    const layout = layoutOf([part(500, '1', '1', '2'), part(500, '1')]);
    expect(copiesIn(layout)).toBe(4);
    const taken = takenBy(layout, dockets, 2, (id) => (id === 1 ? 3 : undefined), () => 1); // prettier-ignore
    expect(taken).toEqual(new Map([[1, { areaM2: 0.12, inkMl: 18 }], [2, { areaM2: 0.02, inkMl: 0 }]])); // prettier-ignore
  });

  it('is of a wall what its panels are of it', () => {
    const panels = [0, 1].map((piece) => pieceKey({ docket: '1', piece }));
    const layout = layoutOf([part(500, ...panels)]);
    const taken = takenBy(layout, dockets, 1, () => 8, (piece) => (piece === panels[0] ? 0.5 : 0.25)); // prettier-ignore
    expect(taken.get(1)).toEqual({ areaM2: 0.015, inkMl: 6 });
    expect(shareOf(2, taken, runCosts(layout, 6, RATES), 0, 0.5)).toEqual({ cost: 0, waste: 0 });
    expect(shareOf(3, taken, runCosts(layout, 6, RATES), 0, 0.5)).toBeUndefined();
  });

  it('adds up to the whole', () => {
    const some = fc.record({ width: fc.integer({ min: 10, max: 500 }), height: fc.integer({ min: 10, max: 500 }), copies: fc.integer({ min: 1, max: 9 }), ml: fc.double({ min: 0, max: 50, noNaN: true }) }); // prettier-ignore
    fc.assert(
      fc.property(fc.array(some, { minLength: 1, maxLength: 6 }), fc.integer({ min: 1, max: 5 }), (list, times) => {
        const layout = layoutOf(list.map(({ copies }, id) => part(300, ...Array<string>(copies).fill(`${id}`))));
        const all = list.map(({ width, height }, id) => ({ id, choices: choices(width, height) }));
        const taken = takenBy(layout, all, times, (id) => list[id]?.ml, () => 1); // prettier-ignore
        const inkMl = [...taken.values()].reduce((sum, one) => sum + one.inkMl, 0);
        const costs = runCosts(layout, inkMl, { ...RATES, times });
        const shares = all.map(({ id }) => shareOf(id, taken, costs, layout.wasteShare, RATES.inkPerMl)!);
        expect(shares.reduce((sum, { cost }) => sum + cost, 0)).toBeCloseTo(costs.all, 6);
        expect(shares.reduce((sum, { waste }) => sum + waste, 0)).toBeCloseTo(costs.media * 0.25, 6);
      })
    );
  });
});
