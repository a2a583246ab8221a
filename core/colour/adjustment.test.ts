import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { pressProfile } from '../../tests/made/press';
import { Adjustment, adjustLab, adjustLightness, changesNothing, NO_ADJUSTMENT, withAdjustment } from './adjustment';
import { inksToLab, labToInks, readLut } from './icc-read';
import { deltaE76, type Triple } from './lab';

const share = fc.integer({ min: -100, max: 100 }).map((v) => v / 100);
const adjustment: fc.Arbitrary<Adjustment> = fc.record({
  brightness: share,
  contrast: share,
  saturation: share,
  cast: fc.integer({ min: 0, max: 100 }).map((v) => v / 100),
  castHue: fc.integer({ min: 0, max: 360 })
});
const lab: fc.Arbitrary<Triple> = fc.tuple(
  fc.double({ min: 0, max: 100, noNaN: true }),
  fc.double({ min: -100, max: 100, noNaN: true }),
  fc.double({ min: -100, max: 100, noNaN: true })
);

describe('an adjustment', () => {
  it('keeps white and black, and what is lighter lighter', () => {
    fc.assert(
      fc.property(adjustment, (made) => {
        expect(adjustLightness(0, made)).toBeCloseTo(0, 9);
        expect(adjustLightness(100, made)).toBeCloseTo(100, 9);
        expect(adjustLab([100, 0, 0], made)).toEqual([expect.closeTo(100, 6), expect.closeTo(0, 6), expect.closeTo(0, 6)]);
        for (let l = 1; l <= 100; l++) expect(adjustLightness(l, made)).toBeGreaterThan(adjustLightness(l - 1, made) - 1e-9);
      })
    );
  });

  it('leaves hues alone but for a cast, and greys grey but for one', () => {
    fc.assert(
      fc.property(adjustment, lab, (made, of) => {
        const plain = { ...made, cast: 0 };
        const [, a, b] = adjustLab(of, plain);
        // No part across the hue.
        expect(Math.abs(a * of[2] - b * of[1])).toBeLessThan(1e-6);
        expect(adjustLab([of[0], 0, 0], plain).slice(1)).toEqual([0, 0].map((v) => expect.closeTo(v, 9) as number));
      })
    );
    const [, a, b] = adjustLab([50, 0, 0], { ...NO_ADJUSTMENT, cast: 0.5, castHue: 90 });
    expect([a, b]).toEqual([expect.closeTo(0, 6), expect.closeTo(15, 6)]);
  });

  it('that is none changes nothing', () => {
    fc.assert(fc.property(lab, (of) => void adjustLab(of, NO_ADJUSTMENT).forEach((v, i) => expect(v).toBeCloseTo(of[i]!, 9))));
    expect(changesNothing(NO_ADJUSTMENT)).toBe(true);
    expect(changesNothing({ ...NO_ADJUSTMENT, castHue: 40 })).toBe(true);
  });
});

describe('a profile with an adjustment', () => {
  const profile = pressProfile();
  const made: Adjustment = { brightness: 0.3, contrast: 0.2, saturation: -0.4, cast: 0.2, castHue: 60 };

  it('prints colours as the profile prints the adjusted ones, of each intent that was asked', () => {
    const changed = withAdjustment(profile, made, ['relative', 'perceptual']);
    const look = inksToLab(readLut(profile, 'A2B1'));
    for (const name of ['B2A1', 'B2A0'] as const) {
      const [before, after] = [labToInks(readLut(profile, name)), labToInks(readLut(changed, name))];
      for (const of of [
        [70, 10, 10],
        [50, 0, 0],
        [40, -20, 10],
        [85, 5, 30]
      ] as Triple[])
        expect(deltaE76(look(after(of)), look(before(adjustLab(of, made))))).toBeLessThan(4);
    }
    expect(readLut(changed, 'B2A2').table).toEqual(readLut(profile, 'B2A2').table);
    expect(changed).toHaveLength(profile.length);
  });

  it('of no change is the profile, but for rounding', () => {
    const changed = withAdjustment(profile, NO_ADJUSTMENT, ['relative']);
    const [before, after] = [readLut(profile, 'B2A1').table, readLut(changed, 'B2A1').table];
    before.forEach((v, i) => expect(Math.abs(v - after[i]!)).toBeLessThan(0.004));
  });
});
