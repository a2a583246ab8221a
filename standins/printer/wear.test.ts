import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { TRUE_UNIT, type Unit } from './physics';
import { WEAR, worn } from './wear';

describe('what happens to a machine', () => {
  it('is the same of the same seed, and leaves it able to print, whatever comes after what', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.constantFrom(...WEAR), fc.nat(1000)), { maxLength: 40 }), (all) => {
        const after = (begin: Unit) => all.reduce((unit, [what, seed]) => worn(unit, what, seed), begin);
        const unit = after(TRUE_UNIT);
        expect(after(TRUE_UNIT)).toEqual(unit);
        for (const figure of [...unit.gain, ...unit.strength]) {
          expect(figure).toBeGreaterThanOrEqual(0.65);
          expect(figure).toBeLessThanOrEqual(1.35);
        }
        for (const hue of unit.hue ?? []) expect(Math.abs(hue)).toBeLessThanOrEqual(2);
        for (const rows of unit.blocked ?? []) expect(rows).toBeLessThanOrEqual(8);
      })
    );
  });

  it('is put right by a service, and not by new inks', () => {
    const old = ['weeks', 'weeks', 'blocked nozzles', 'blocked nozzles'] as const;
    const unit = old.reduce((one: Unit, what, seed) => worn(one, what, seed), TRUE_UNIT);
    expect(unit.blocked!.reduce((sum, rows) => sum + rows, 0)).toBe(2);
    expect(worn(unit, 'new inks', 5)).toMatchObject({ gain: unit.gain, blocked: unit.blocked });
    const serviced = worn(unit, 'service', 5);
    expect(serviced.blocked).toEqual([0, 0, 0, 0]);
    for (const gain of serviced.gain) expect(Math.abs(gain - 1)).toBeLessThanOrEqual(0.03);
  });
});
