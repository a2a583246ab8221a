import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { NEW_CARD } from '$core/media/card';
import { RESTS_ON, RESULTS, type ResultIds, type ResultStep } from '$lib/calibration';
import type { ConditionRow } from './condition';
import { markStale, sizeOf } from './condition-rules';

/** Every step once, each resting on those of now; `again` are done anew after all. */
function stale(...again: ResultStep[]): ResultStep[] {
  const ids = Object.fromEntries(RESULTS.map((step, i) => [step, i + 1])) as Required<ResultIds>;
  const found = RESULTS.map((step) => ({
    step,
    id: again.includes(step) ? 100 + ids[step] : ids[step],
    restsOn: Object.fromEntries(RESTS_ON[step].map((on) => [on, ids[on]])) as ResultIds,
    stale: false
  }));
  markStale(found);
  return found.filter((one) => one.stale).map(({ step }) => step);
}

describe('steps', () => {
  it('are to be done again when something that they rest on was, however far above', () => {
    expect(stale()).toEqual([]);
    expect(stale('limits')).toEqual(['linear', 'linear check', 'total', 'profile', 'verify', 'match']);
    expect(stale('tone')).toEqual([]);
    expect(stale('total')).toEqual(['profile', 'verify', 'match']);
    expect(stale('verify')).toEqual([]);
    expect(stale('start')).toEqual([]);
  });

  it('never make themselves stale, and all that is stale has a reason', () => {
    fc.assert(
      fc.property(fc.subarray([...RESULTS]), (again) => {
        const found = stale(...again);
        for (const step of found) expect(RESTS_ON[step].some((on) => again.includes(on) || found.includes(on))).toBe(true);
      })
    );
  });
});

describe('the size of the media', () => {
  const row = (over: Partial<ConditionRow>) => ({ bed: 'roll', width_mm: null, height_mm: null, ...over }) as ConditionRow;
  const card = { ...NEW_CARD, widthMm: 1370, sheets: [{ widthMm: 2000, heightMm: 1000, count: 4 }] };

  it('is what was last seen on the machine, else what the card says', () => {
    expect(sizeOf(row({}), card)).toEqual({ rollWidthMm: 1370, sheetMm: null });
    expect(sizeOf(row({ width_mm: 1600 }), card)).toEqual({ rollWidthMm: 1600, sheetMm: null });
    expect(sizeOf(row({ bed: 'flatbed' }), card)).toEqual({ rollWidthMm: 2000, sheetMm: 1000 });
    expect(sizeOf(row({ bed: 'flatbed', width_mm: 900, height_mm: 600 }), card)).toEqual({ rollWidthMm: 900, sheetMm: 600 });
    expect(sizeOf(row({ bed: 'flatbed' }), { ...card, sheets: [] })).toEqual({ rollWidthMm: 1370, sheetMm: 1220 });
  });
});
