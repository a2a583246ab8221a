import { describe, expect, it } from 'vitest';
import { NO_ADJUSTMENT } from '$core/colour/adjustment';
import { toneTables, type Tone } from '$core/colour/tone';
import { COUNTS, LETTERS, MOST_VARIANTS, Variant, VARIANT_KINDS, variantsOf } from './variants';

const CURVE: Tone = {
  all: {
    points: [
      [0, 0],
      [0.3, 0.5],
      [1, 1]
    ],
    mayFall: false
  },
  magenta: {
    points: [
      [0, 0],
      [1, 0.7]
    ],
    mayFall: false
  }
};
const NOW = {
  adjustment: { ...NO_ADJUSTMENT, brightness: 0.9, cast: 0.2, castHue: 30 },
  tone: CURVE,
  intent: 'perceptual' as const
};

describe('variants', () => {
  it.each(VARIANT_KINDS)('%s can be kept, each of them, and are all different', (kind) => {
    for (const count of [2, 5, MOST_VARIANTS]) {
      const made = variantsOf(kind, count, NOW);
      expect(made).toHaveLength(COUNTS[kind] ?? count);
      expect(made.length).toBeLessThanOrEqual(LETTERS.length);
      for (const one of made) expect(Variant.safeParse(one).error?.issues[0]?.message).toBeUndefined();
    }
    const five = variantsOf(kind, 5, { ...NOW, adjustment: NO_ADJUSTMENT });
    const told = five.map(({ adjustment, tone, intent, halftone }) => JSON.stringify([adjustment, tone, intent, halftone]));
    expect(new Set(told).size).toBe(five.length);
  });

  it('between go from as it was sent to as it is, evenly', () => {
    const [sent, , middle, , now] = variantsOf('between', 5, NOW);
    expect(sent).toMatchObject({ adjustment: NO_ADJUSTMENT, tone: {} });
    expect(now).toMatchObject({ adjustment: NOW.adjustment, tone: CURVE });
    const [tables, half] = [toneTables([{ all: CURVE.all }]), toneTables([{ all: middle!.tone.all }])];
    for (const v of [64, 128, 200]) expect(half[0]![v]).toBeCloseTo((v / 255 + tables[0]![v]!) / 2, 1);
    expect(middle!.adjustment.brightness).toBeCloseTo(0.45, 9);
  });

  it('of halftones change nothing else', () => {
    const list = variantsOf('halftones', 7, NOW);
    expect(list.map(({ halftone }) => halftone)).toEqual(['blue-noise', 'error-diffusion']);
    for (const one of list) expect(one).toMatchObject(NOW);
  });

  it('of an ink are rising, with as it is in the middle', () => {
    const list = variantsOf('magenta', 5, { ...NOW, tone: {} });
    const middles = list.map(({ tone }) => toneTables([tone])[1]![128]!);
    for (let i = 1; i < 5; i++) expect(middles[i]!).toBeGreaterThan(middles[i - 1]! + 0.03);
    expect(middles[2]!).toBeCloseTo(128 / 255, 2);
  });
});
