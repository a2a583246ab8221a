import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { kernelsModule } from '../../tests/made/kernels';
import { seededRandom } from '../geometry/random';
import { Kernels } from '../kernels/kernels';
import { MIXTURE_FIGURES, mixed, mixedPixels, mixtureThrough } from './mixture';

let kernels: Kernels;
beforeAll(() => {
  kernels = new Kernels(kernelsModule());
});

const NOTHING = Array.from({ length: MIXTURE_FIGURES }, () => 0);
/** Amounts that are moved by up to a tenth, and not where there is no ink. */
function someMixture(seed: number): number[] {
  const random = seededRandom(seed);
  const moved = (value: number) => Math.min(1, Math.max(0, value + (random() - 0.5) / 5));
  return mixtureThrough((point) => point.map((value) => (value === 0 ? 0 : moved(value))));
}
const pixel = fc.array(fc.integer({ min: 0, max: 255 }), { minLength: 4, maxLength: 4 });
const pixels = fc.array(pixel, { minLength: 1, maxLength: 60 });

describe('a mixture', () => {
  it('that adds nothing leaves every pixel as it is', () => {
    fc.assert(
      fc.property(pixels, (all) => {
        expect([...mixedPixels(kernels, NOTHING, Uint8Array.from(all.flat()))]).toEqual(all.flat());
      })
    );
    const ramp = Uint8Array.from({ length: 1024 }, (_, i) => i >> 2);
    expect(mixedPixels(kernels, NOTHING, ramp)).toEqual(ramp);
  });

  it('is of pixels what it is of inks, and adds no ink where none is asked for', () => {
    fc.assert(
      fc.property(fc.nat(50), pixels, (seed, all) => {
        const mixture = someMixture(seed);
        const made = mixedPixels(kernels, mixture, Uint8Array.from(all.flat()));
        all.forEach((inks, i) => {
          const wanted = mixed(
            mixture,
            inks.map((v) => v / 255)
          );
          wanted.forEach((value, ink) => {
            expect(Math.abs(made[i * 4 + ink]! - value * 255)).toBeLessThan(0.8);
            if (inks[ink] === 0) expect(made[i * 4 + ink]).toBe(0);
          });
        });
      })
    );
  });

  it('gives back the room that it took', () => {
    const { mark } = kernels;
    mixedPixels(kernels, someMixture(1), new Uint8Array(400));
    expect(kernels.mark).toBe(mark);
  });

  it('holds a way of printing at its points, and between them one that is straight', () => {
    const way = ([c, m, y, k]: readonly number[]) => [c! * 0.9, m! * 0.8 + c! * 0.1, y!, k!];
    const mixture = mixtureThrough(way);
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 4, maxLength: 4 }), (inks) => {
        way(inks).forEach((value, ink) => expect(mixed(mixture, inks)[ink]).toBeCloseTo(value, 3));
      })
    );
  });
});
