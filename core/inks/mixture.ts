import type { Kernels } from '../kernels/kernels';

/**
 * A correction of all inks together: what no curve of one ink brings back. It is a grid of values, each with how much of each
 * ink is added to it; between its points five of a cell's sixteen corners are weighed.
 */
export type Mixture = readonly number[];

/** Points a side. */
export const MIXTURE_GRID = 7;
export const MIXTURE_FIGURES = MIXTURE_GRID ** 4 * 4;

const LAST = MIXTURE_GRID - 1;
/** What a full ink is in a table of `lookup4`. */
const FULL = 65280;

/** The points in order, the first ink's values slowest. @returns by point its four values 0…1 */
export const mixturePoints = (): number[][] =>
  Array.from({ length: MIXTURE_GRID ** 4 }, (_, i) =>
    [3, 2, 1, 0].map((power) => (Math.floor(i / MIXTURE_GRID ** power) % MIXTURE_GRID) / LAST)
  );

/** @param way what is printed in the place of values 0…1 */
export const mixtureThrough = (way: (inks: readonly number[]) => readonly number[]): number[] =>
  mixturePoints().flatMap((point) => way(point).map((value, ink) => Math.round((value - point[ink]!) * 1e4) / 1e4));

/** @param inks 0…1 @returns what is printed in their place, 0…1 */
export function mixed(mixture: Mixture, inks: readonly number[]): number[] {
  const axes = inks.map((value, i) => {
    const place = Math.min(1, Math.max(0, value)) * LAST;
    const whole = Math.min(LAST - 1, Math.floor(place));
    return { whole, fraction: place - whole, stride: MIXTURE_GRID ** (3 - i) };
  });
  const out = [...inks];
  let corner = axes.reduce((sum, { whole, stride }) => sum + whole * stride, 0);
  let last = 1;
  const add = (weight: number) => out.forEach((value, i) => (out[i] = value + weight * mixture[corner * 4 + i]!));
  for (const { fraction, stride } of axes.sort((p, q) => q.fraction - p.fraction)) {
    add(last - fraction);
    corner += stride;
    last = fraction;
  }
  add(last);
  return out.map((value) => Math.min(1, Math.max(0, value)));
}

/** The same of four bytes a pixel. */
export function mixedPixels(kernels: Kernels, mixture: Mixture, pixels: Uint8Array): Uint8Array {
  const { mark } = kernels;
  const mixer = new Mixer(kernels, mixture);
  const at = kernels.allocate(pixels.length);
  kernels.bytes(at, pixels.length).set(pixels);
  mixer.row(at, pixels.length / 4);
  const out = Uint8Array.from(kernels.bytes(at, pixels.length));
  kernels.release(mark);
  return out;
}

/** A mixture for the RIP's rows. */
export class Mixer {
  readonly #kernels: Kernels;
  readonly #places: number;
  readonly #table: number;

  constructor(kernels: Kernels, mixture: Mixture) {
    this.#kernels = kernels;
    this.#places = kernels.allocate(4 * 256 * 2);
    this.#table = kernels.allocate(MIXTURE_FIGURES * 2);
    const { buffer } = kernels.run.memory;
    new Uint16Array(buffer, this.#places, 4 * 256).forEach((_, i, places) => {
      const place = ((i & 255) / 255) * LAST;
      const whole = Math.min(LAST - 1, Math.floor(place));
      places[i] = whole * 512 + Math.round((place - whole) * 256);
    });
    const table = new Uint16Array(buffer, this.#table, MIXTURE_FIGURES);
    mixturePoints().forEach((point, i) =>
      point.forEach((value, ink) => {
        table[i * 4 + ink] = Math.round(Math.min(1, Math.max(0, value + mixture[i * 4 + ink]!)) * FULL);
      })
    );
  }

  /** @param at where in the kernels' memory `count` pixels of four values begin; they are changed in place */
  row(at: number, count: number): void {
    this.#kernels.run.lookup4(at, count, this.#places, this.#table, MIXTURE_GRID, at);
  }
}
