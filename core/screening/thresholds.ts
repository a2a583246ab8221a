import type { DropVolumes } from '../inks/drops';

/** For each of four inks, what share of the fullest drop an 8-bit value asks for: 256 figures in 0…1, rising, 0 → 0. */
export type InkCurves = readonly [Float64Array, Float64Array, Float64Array, Float64Array];

/** Where each ink begins in the mask, as shares of its side, so that inks do not fall on each other. */
const SHIFTS = [
  [0, 0],
  [0.5, 0.25],
  [0.25, 0.625],
  [0.75, 0.875]
] as const;

/** The straight curve: a value of 255 is the fullest drop on every pixel. */
export function straightCurves(limit = 1): InkCurves {
  const curve = () => Float64Array.from({ length: 256 }, (_, v) => (v / 255) * limit);
  return [curve(), curve(), curve(), curve()];
}

/**
 * Turns blue-noise ranks, drop volumes and tone curves into three threshold tables: a pixel's level is the count of
 * tables whose entry is below its value. Curves are folded in, so that they cost no precision and no time.
 *
 * Between two drop sizes the share of pixels with the larger one is linear in ink volume, exact to one part in size².
 *
 * @param ranks size² ranks, size a power of two and at least 16
 * @returns rows of interleaved CMYK thresholds: tables[k] has size × size × 4 bytes
 */
export function thresholdTables(ranks: ArrayLike<number>, size: number, drops: DropVolumes, curves: InkCurves): Uint8Array[] {
  const count = size * size;
  const tables = [0, 1, 2].map(() => new Uint8Array(count * 4));
  const levels = [0, drops[0] / drops[2], drops[1] / drops[2], 1];
  for (let ink = 0; ink < 4; ink++) {
    const curve = curves[ink as 0 | 1 | 2 | 3];
    const shift = SHIFTS[ink as 0 | 1 | 2 | 3];
    const sx = Math.round(shift[0] * size);
    const sy = Math.round(shift[1] * size);
    for (let k = 0; k < 3; k++) {
      const from = levels[k] as number;
      const to = levels[k + 1] as number;
      // threshold[r]: the largest value at which rank r is still off. Values that switch ranks on rise with the value.
      const threshold = new Uint8Array(count);
      let value = 0;
      for (let r = 0; r < count; r++) {
        while (value < 256 && ((curve[value] ?? 0) - from) / (to - from) <= (r + 0.5) / count) value++;
        threshold[r] = Math.min(255, value - 1);
      }
      const table = tables[k] as Uint8Array;
      for (let y = 0; y < size; y++) {
        for (let x = 0; x < size; x++) {
          const rank = ranks[((y + sy) % size) * size + ((x + sx) % size)] ?? 0;
          table[(y * size + x) * 4 + ink] = threshold[rank] ?? 255;
        }
      }
    }
  }
  return tables;
}

/** One row of the mask as interleaved noise bytes (0…255), the same shifts: what error diffusion is shaken with. */
export function noiseTable(ranks: ArrayLike<number>, size: number): Uint8Array {
  const table = new Uint8Array(size * size * 4);
  for (let ink = 0; ink < 4; ink++) {
    const shift = SHIFTS[ink as 0 | 1 | 2 | 3];
    for (let y = 0; y < size; y++) {
      for (let x = 0; x < size; x++) {
        const sy = (y + Math.round(shift[1] * size)) % size;
        const sx = (x + Math.round(shift[0] * size)) % size;
        table[(y * size + x) * 4 + ink] = Math.floor(((ranks[sy * size + sx] ?? 0) * 256) / (size * size));
      }
    }
  }
  return table;
}
