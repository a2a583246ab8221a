import { MM_PER_INCH } from '../units/length';

/** Drop sizes of a print mode: volumes in pl of the small, middle and large drop, rising. */
export type DropVolumes = readonly [small: number, middle: number, large: number];

/** Drops of one ink by size. */
export type DropCounts = readonly [small: number, middle: number, large: number];

/** Ink in ml: drops counted × volume in pl. */
export function inkMl(counts: DropCounts, drops: DropVolumes): number {
  return (counts[0] * drops[0] + counts[1] * drops[1] + counts[2] * drops[2]) / 1e9;
}

/** ml of one ink that a square metre at full coverage takes: the largest drop on every pixel. */
export function mlPerSquareMetre(dpi: { x: number; y: number }, drops: DropVolumes): number {
  const perMetre = 1000 / MM_PER_INCH;
  return (dpi.x * perMetre * dpi.y * perMetre * drops[2]) / 1e9;
}

/** Table for adding up ink in cells: the amount of the four pixels in a packed byte, the largest drop being `full`. */
export function packedAmounts(drops: DropVolumes, full = 1020): Uint16Array {
  const level = [0, drops[0] / drops[2], drops[1] / drops[2], 1].map((share) => Math.round(share * full));
  return Uint16Array.from(
    { length: 256 },
    (_, byte) => (level[byte >> 6] ?? 0) + (level[(byte >> 4) & 3] ?? 0) + (level[(byte >> 2) & 3] ?? 0) + (level[byte & 3] ?? 0)
  );
}

export interface PrintSpeed {
  /** mm of print head along the roll, and how many passes go over each place. */
  headMm: number;
  passes: number;
  /** mm/s across, and seconds to turn round. */
  carriageMmPerS: number;
  turnS: number;
  /** Each has passes of its own; 1 where it is not said. */
  layers?: number;
  /** The carriage prints on its way there alone, and comes back empty. */
  oneWay?: boolean;
}

/** How many times as long a carriage takes that comes back empty: on its way back it is quicker. */
const AND_BACK = 1.8;

/** Swaths, each a passes-th of the head high, times the carriage's way across and its turn, and back. @returns seconds */
export function printSeconds(widthMm: number, lengthMm: number, speed: PrintSpeed): number {
  const swaths = Math.ceil(lengthMm / (speed.headMm / speed.passes));
  const across = (widthMm / speed.carriageMmPerS + speed.turnS) * (speed.oneWay ? AND_BACK : 1);
  return swaths * across * (speed.layers ?? 1);
}
