import { beforeAll, describe, expect, it } from 'vitest';
import { blueNoiseMask, kernelsModule } from '../../tests/made/kernels';
import { fourInks, shiftOf, type InkSet } from '../inks/ink-set';
import { Kernels } from '../kernels/kernels';
import { toneGrain, type TonePress } from './tone-grain';

const FOUR = fourInks([6, 13, 21]);
const WITH_LIGHT: InkSet = [...FOUR, { ...FOUR[0]!, name: 'Light cyan', role: 'light', shift: shiftOf(4) }];
const press = (inks: InkSet, dpi = 720): TonePress => ({
  inks,
  curves: Array.from({ length: 4 }, () => Array.from({ length: 256 }, (_, v) => (v / 255) ** 1.4 * 0.9)),
  dpi
});
let kernels: Kernels;
let mask: ReturnType<typeof blueNoiseMask>;
beforeAll(() => {
  kernels = new Kernels(kernelsModule());
  mask = blueNoiseMask();
});
const lightness = (_: number, value: number) => 95 - 42 * value;

describe('the grain of a tone', () => {
  it('is told of channels with a light ink, and is less with it', () => {
    for (const dpi of [540, 720, 1080]) {
      const found = toneGrain(press(WITH_LIGHT, dpi), 0.25, lightness, kernels, mask);
      expect(found.map(({ channel }) => channel)).toEqual(['Cyan']);
      expect(found[0]!.without).toBeGreaterThan(0.02);
      expect(found[0]!.with / found[0]!.without).toBeLessThan(0.6);
    }
    expect(toneGrain(press(FOUR), 0.25, lightness, kernels, mask)).toEqual([]);
  });

  it('is none where nothing is printed, and is the same each time', () => {
    expect(toneGrain(press(WITH_LIGHT), 0, lightness, kernels, mask)[0]).toMatchObject({ with: 0, without: 0 });
    const once = toneGrain(press(WITH_LIGHT), 0.1, lightness, kernels, mask);
    expect(toneGrain(press(WITH_LIGHT), 0.1, lightness, kernels, mask)).toEqual(once);
  });
});
