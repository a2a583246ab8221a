/** The total ink limit: what a pixel may take of all inks together, whatever drew it. */

/** Amounts are counted in so many parts of the fullest drop. */
export const LIMIT_UNIT = 4096;

export interface LimitTables {
  /** For each of the profile's channels 256 totals of its inks, in parts of the fullest drop: what a value takes of ink. */
  totals: Uint16Array;
  /** The limit in the same parts. */
  limit: number;
  /** No pixel whose values sum to this or less can be above the limit. */
  safe: number;
  /** For values of 16 together the most that any channel’s takes, in parts of `LIMIT_UNIT / COARSE`: a second quick look. */
  coarse: Uint8Array;
}

/** How finely the quick look counts, parts of the fullest drop. */
export const COARSE = 64;

/**
 * @param curves by ink: value → share of the fullest drop
 * @param channelOf by ink: which of the profile's channels it prints; −1 where it is none of them
 * @param channels how many there are
 * @param limit shares of the fullest drop
 */
export function limitTables(
  curves: readonly ArrayLike<number>[],
  channelOf: readonly number[],
  channels: number,
  limit: number
): LimitTables {
  const totals = new Uint16Array(channels * 256);
  for (let channel = 0; channel < channels; channel++)
    for (let v = 0; v < 256; v++) {
      const total = curves.reduce((sum, curve, ink) => sum + (channelOf[ink] === channel ? (curve[v] ?? 0) : 0), 0);
      // Rounded up, so that what is let through is never above.
      totals[channel * 256 + v] = Math.min(65535, Math.ceil(total * LIMIT_UNIT - 1e-6));
    }
  const most = Math.floor(limit * LIMIT_UNIT);
  let steepest = 0;
  totals.forEach((total, i) => {
    if (i % 256 > 0) steepest = Math.max(steepest, total / (i % 256));
  });
  const bounds = Array.from({ length: 16 }, (_, bucket) =>
    Math.ceil(
      (totals.reduce((high, total, i) => ((i & 255) >> 4 === bucket ? Math.max(high, total) : high), 0) * COARSE) / LIMIT_UNIT
    )
  );
  // So many inks of one channel do not fit: then every pixel is looked at closely.
  const coarse = Uint8Array.from(bounds, (bound) => (Math.max(...bounds) > 255 ? 255 : bound));
  return { totals, limit: most, coarse, safe: steepest > 0 ? Math.floor(most / steepest) : 0xffff };
}
