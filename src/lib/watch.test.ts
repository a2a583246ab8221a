import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { watchWords, WatchRule, whyDue, type Since } from './watch';

const RULE: WatchRule = { days: 30, metres: 500, afterService: true };
const NEVER: WatchRule = { days: null, metres: null, afterService: false };
const FRESH: Since = { days: 0, metres: 0, notes: [] };

describe('a condition is to be read again', () => {
  it('after so many days, after so many metres, or after something was done to its machine', () => {
    expect(whyDue(FRESH, RULE, 'mm')).toBeUndefined();
    expect(whyDue({ ...FRESH, days: 29, metres: 499.9 }, RULE, 'mm')).toBeUndefined();
    expect(whyDue({ ...FRESH, days: 30 }, RULE, 'mm')).toBe('30 days since it was last read');
    expect(whyDue({ ...FRESH, metres: 1500.4 }, RULE, 'mm')).toBe('1,500 m printed since it was last read');
    expect(whyDue({ ...FRESH, metres: 1500.4 }, RULE, 'in')).toBe('4,923 ft printed since it was last read');
    expect(whyDue({ days: 90, metres: 900, notes: ['service', 'new inks', 'service'] }, RULE, 'mm')).toBe(
      'service and new inks since it was last read'
    );
  });

  it('never where the shop has no rule', () => {
    const since = fc.record({ days: fc.nat(), metres: fc.double({ min: 0, noNaN: true }), notes: fc.array(fc.string()) });
    fc.assert(fc.property(since, (one) => void expect(whyDue(one, NEVER, 'mm')).toBeUndefined()));
  });

  it('by a rule of whole days and of metres that can be', () => {
    expect(WatchRule.safeParse(NEVER).success).toBe(true);
    for (const wrong of [{ days: 0 }, { days: 1.5 }, { days: 4000 }, { metres: 0 }, { metres: 2e6 }, { afterService: 'yes' }])
      expect(WatchRule.safeParse({ ...RULE, ...wrong }).success).toBe(false);
  });
});

describe('what a list says of a condition over time', () => {
  const read = { at: 5, mean: 1.46 };
  it.each([
    [{ baselineAt: null, isOld: false, read: null, isBack: false }, undefined, 'open', 'open'],
    [{ baselineAt: 1, isOld: false, read: null, isBack: false }, undefined, 'baseline kept', 'done'],
    [{ baselineAt: 1, isOld: false, read: null, isBack: false }, '30 days', 'due: 30 days', 'look'],
    [{ baselineAt: 1, isOld: false, read, isBack: false }, '30 days', 'drifted, ΔE00 1.5', 'look'],
    [
      { baselineAt: 1, isOld: false, read: { at: 5, mean: 0.31 }, isBack: false },
      undefined,
      'ΔE00 0.3 from its baseline',
      'done'
    ],
    [{ baselineAt: 1, isOld: true, read: null, isBack: false }, '30 days', 'made anew since its baseline', 'look'],
    [{ baselineAt: 1, isOld: true, read, isBack: false }, undefined, 'drifted, ΔE00 1.5', 'look'],
    [{ baselineAt: 1, isOld: false, read: null, isBack: true }, undefined, 'brought back, to be read once more', 'look']
  ] as const)('%j, due %s: %s', (watch, due, words, level) => {
    expect(watchWords(watch, due, 1)).toEqual({ words, level });
  });
});
