/** What a docket's tone makes of drawn inks. */

/** A tone's tables as bytes, made once for many rows. */
export const toneTablesOf = (tone: readonly ArrayLike<number>[]): Uint8Array[] => tone.map((table) => Uint8Array.from(table));

/** Channels of the profile, interleaved: each byte of one through its table, in place. */
export function tonePixels(pixels: Uint8Array | Uint8ClampedArray, tables: readonly Uint8Array[]): void {
  const [c, m, y, k] = tables as [Uint8Array, Uint8Array, Uint8Array, Uint8Array];
  for (let i = 0; i < pixels.length; i += 4) {
    pixels[i] = c[pixels[i]!]!;
    pixels[i + 1] = m[pixels[i + 1]!]!;
    pixels[i + 2] = y[pixels[i + 2]!]!;
    pixels[i + 3] = k[pixels[i + 3]!]!;
  }
}
