import type { DropVolumes } from '../inks/drops';

/** What share of the fullest drop an 8-bit value asks for: 256 figures in 0…1, rising, 0 → 0. */
export type InkCurve = ArrayLike<number>;

/** The straight curve: a value of 255 is the fullest drop on every pixel. */
export const straightCurve = (): Float64Array => Float64Array.from({ length: 256 }, (_, v) => v / 255);

/** Goes through a mask that begins elsewhere: `use` is told each place and the rank there. */
function eachRank(
  ranks: ArrayLike<number>,
  size: number,
  shift: readonly [number, number],
  use: (at: number, rank: number) => void
): void {
  const sx = Math.round(shift[0] * size);
  const sy = Math.round(shift[1] * size);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) use(y * size + x, ranks[((y + sy) % size) * size + ((x + sx) % size)] ?? 0);
}

/**
 * Turns blue-noise ranks, drop volumes and a tone curve into three threshold tables of one ink: a pixel's level is the count
 * of tables whose entry is below its value. The curve is folded in, so that it costs no precision and no time.
 *
 * Between two drop sizes the share of pixels with the larger one is linear in ink volume, exact to one part in size².
 *
 * @param ranks size² ranks, size a power of two and at least 16
 * @param shift where the ink begins in the mask, shares of its side
 * @returns tables[k] has size² bytes
 */
export function thresholdTables(
  ranks: ArrayLike<number>,
  size: number,
  drops: DropVolumes,
  curve: InkCurve,
  shift: readonly [number, number]
): Uint8Array[] {
  const count = size * size;
  const levels = [0, drops[0] / drops[2], drops[1] / drops[2], 1];
  return [0, 1, 2].map((k) => {
    const from = levels[k]!;
    const to = levels[k + 1]!;
    // threshold[r]: the largest value at which rank r is still off. Values that switch ranks on rise with the value.
    const threshold = new Uint8Array(count);
    let value = 0;
    for (let r = 0; r < count; r++) {
      while (value < 256 && ((curve[value] ?? 0) - from) / (to - from) <= (r + 0.5) / count) value++;
      threshold[r] = Math.min(255, value - 1);
    }
    const table = new Uint8Array(count);
    eachRank(ranks, size, shift, (at, rank) => (table[at] = threshold[rank] ?? 255));
    return table;
  });
}

/** The mask as noise of one byte (0…255): what error diffusion is shaken with. */
export function noiseTable(ranks: ArrayLike<number>, size: number, shift: readonly [number, number]): Uint8Array {
  const table = new Uint8Array(size * size);
  eachRank(ranks, size, shift, (at, rank) => (table[at] = Math.floor((rank * 256) / (size * size))));
  return table;
}
