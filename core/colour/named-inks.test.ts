import { beforeAll, describe, expect, it } from 'vitest';
import { climbed, coloursInReach, nearestTruly, type Climbed } from '../../tests/made/named';
import { spreadOf } from '../calibration/profile-from-chart';
import { deltaE00, type Triple } from './lab';
import { IN_REACH, TINT_STEPS } from './named-inks';

/** Against the stand-in's noise-free truth: conditions that were climbed with a reader's noise. */

const SURFACES = ['gloss', 'matt', 'paper'] as const;

/** Beyond what these inks reach, all round the circle of hues, and at both ends of lightness. */
const BEYOND: Triple[] = [
  [55, 90, 40],
  [60, -80, 20],
  [30, 40, -90],
  [85, 0, 120],
  [70, -40, -50],
  [5, 0, 0],
  [99, 0, 0]
];

describe.each(SURFACES)('named colours on %s', (surface) => {
  let made: Climbed;
  beforeAll(async () => {
    made = await climbed(surface, 500, 9);
  });

  it('come out right where they are in reach, and what is told of them is true', () => {
    const results = coloursInReach(made, 60).map((lab) => ({ lab, ...made.maker.make(lab) }));
    const errors = results.map(({ lab, inks }) => deltaE00(made.truth(inks), lab));
    expect(spreadOf(errors).mean).toBeLessThanOrEqual(0.4);
    expect(Math.max(...errors)).toBeLessThanOrEqual(1);
    for (const { deltaE, inks } of results) {
      expect(deltaE).toBeLessThan(IN_REACH);
      expect(made.maker.isWithin(inks)).toBe(true);
      for (const ink of inks) expect(Math.abs(ink * 255 - Math.round(ink * 255))).toBeLessThan(1e-9);
    }
  });

  it('are as near as the inks can come where they are not', () => {
    for (const lab of BEYOND) {
      const { inks, deltaE } = made.maker.make(lab);
      expect(deltaE).toBeGreaterThan(IN_REACH);
      const truly = deltaE00(made.truth(inks), lab);
      expect(truly - nearestTruly(made, lab)).toBeLessThan(0.3);
      expect(Math.abs(truly - deltaE)).toBeLessThan(0.3);
    }
  });

  it('have tints that darken evenly from the media to the solid, and bring no ink that comes and goes', () => {
    for (const lab of [...coloursInReach(made, 10), ...BEYOND]) {
      const { inks } = made.maker.make(lab);
      const tints = made.maker.tints(inks);
      expect(tints).toHaveLength(TINT_STEPS + 1);
      expect(tints[0]).toEqual([0, 0, 0, 0]);
      expect(tints[TINT_STEPS]).toEqual(inks);
      const white = made.truth([0, 0, 0, 0]);
      const far = tints.map((tint) => {
        const [l, a, b] = made.truth(tint);
        return Math.hypot(l - white[0], a - white[1], b - white[2]);
      });
      for (let i = 1; i <= TINT_STEPS; i++) {
        expect(far[i]! - far[i - 1]!).toBeGreaterThan(-0.02);
        tints[i]!.forEach((ink, k) => expect(ink).toBeGreaterThanOrEqual(tints[i - 1]![k]! - 1e-9));
      }
    }
  });
});
