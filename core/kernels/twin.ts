/** Plain twins of the compiled loops: slow, easy to read, and the oracle of their tests. */

/** Interleaved pixels as one row a channel. */
export const splitChannels = (row: Uint8Array, channels: number): Uint8Array[] =>
  Array.from({ length: channels }, (_, k) => row.filter((_v, i) => i % channels === k));

/** One pixel of four channels within the total ink limit; the last, black, stays. See limitRow in assembly/index.ts. */
export function limitPixel(pixel: readonly number[], totals: Uint16Array, limit: number): number[] {
  const total = (channel: number, value: number) => totals[channel * 256 + value] ?? 0;
  const largest = (channel: number, most: number) => {
    let value = pixel[channel] ?? 0;
    while (value > 0 && total(channel, value) > most) value--;
    return value;
  };
  const [c = 0, m = 0, y = 0, k = 0] = pixel;
  const asked = [total(0, c), total(1, m), total(2, y), total(3, k)] as const;
  if (asked[0] + asked[1] + asked[2] + asked[3] <= limit) return [...pixel];
  const black = Math.min(asked[3], limit);
  const colours = asked[0] + asked[1] + asked[2];
  const less = (channel: 0 | 1 | 2) => largest(channel, Math.floor((asked[channel] * (limit - black)) / colours));
  return [less(0), less(1), less(2), asked[3] > limit ? largest(3, limit) : k];
}

/** Levels (0…3, one byte a pixel) of one row of one ink, by threshold. */
export function screenPlaneLevels(source: Uint8Array, thresholds: readonly Uint8Array[], period: number): Uint8Array {
  return source.map((value, x) => thresholds.filter((table) => value > (table[x % period] ?? 255)).length);
}

/** 2-bit samples, first pixel in the high bits; the width is a multiple of 4. */
export function packLevels(levels: Uint8Array): Uint8Array {
  const row = new Uint8Array(levels.length / 4);
  levels.forEach((level, x) => (row[x >> 2] = (row[x >> 2] ?? 0) | (level << (6 - 2 * (x & 3)))));
  return row;
}

/**
 * Error diffusion of one row of one ink; see diffuseRow in assembly/index.ts for the figures.
 *
 * @param errors width + 2 of them; the next row's are left there
 */
export function diffusePlaneLevels(
  source: Uint8Array,
  curve: Int32Array,
  steps: Int32Array,
  noise: Uint8Array,
  errors: Int32Array,
  leftwards: boolean
): Uint8Array {
  const width = source.length;
  const levels = new Uint8Array(width);
  const next = new Int32Array(errors.length);
  const direction = leftwards ? -1 : 1;
  const amount = [0, steps[0] ?? 0, steps[1] ?? 0, steps[2] ?? 0];
  let ahead = 0;
  for (let i = 0; i < width; i++) {
    const x = leftwards ? width - 1 - i : i;
    const base = curve[source[x] ?? 0] ?? 0;
    const wanted = base > 0 ? base + ahead + (errors[x + 1] ?? 0) : 0;
    const shake = base > 0 ? ((noise[x % noise.length] ?? 0) - 128) * 32 : 0;
    let level = 0;
    for (let k = 0; k < 3; k++) if (wanted + shake > (steps[3 + k] ?? 0)) level = k + 1;
    levels[x] = level;
    const error = wanted - (amount[level] ?? 0);
    const e7 = (error * 7) >> 4;
    const e3 = (error * 3) >> 4;
    const e5 = (error * 5) >> 4;
    ahead = e7;
    const put = (px: number, e: number) => (next[px + 1] = (next[px + 1] ?? 0) + e);
    put(x - direction, e3);
    put(x, e5);
    if (x + direction >= 0 && x + direction < width) put(x + direction, error - e7 - e3 - e5);
  }
  errors.set(next);
  return levels;
}

/** TIFF 6.0 section 9, the other way. @throws RangeError when the data end early or run over */
export function unpackBits(packed: Uint8Array, length: number): Uint8Array {
  const out = new Uint8Array(length);
  let at = 0;
  let to = 0;
  while (to < length) {
    if (at >= packed.length) throw new RangeError('A packed strip ends before its rows are full.');
    const head = packed[at++] ?? 0;
    if (head === 128) continue;
    if (head < 128) {
      const count = head + 1;
      if (to + count > length || at + count > packed.length) throw new RangeError('A packed strip runs over its rows.');
      for (const end = to + count; to < end;) out[to++] = packed[at++]!;
    } else {
      const count = 257 - head;
      if (to + count > length || at >= packed.length) throw new RangeError('A packed strip runs over its rows.');
      out.fill(packed[at++] ?? 0, to, to + count);
      to += count;
    }
  }
  return out;
}

/** Drops of level 1, 2 and 3 in packed rows. */
export function countPackedDrops(packed: Uint8Array): [number, number, number] {
  const counts: [number, number, number] = [0, 0, 0];
  for (const byte of packed) {
    for (let shift = 0; shift < 8; shift += 2) {
      const level = (byte >> shift) & 3;
      if (level > 0) counts[(level - 1) as 0 | 1 | 2]++;
    }
  }
  return counts;
}

/** Trilinear by tetrahedra, in floating point. Table values 0…65280, grid³ × 4. */
export function lookup3Pixel(
  r: number,
  g: number,
  b: number,
  table: Uint16Array,
  grid: number
): [number, number, number, number] {
  const axis = [r, g, b].map((v, i) => {
    const p = (v / 255) * (grid - 1);
    const whole = Math.min(grid - 2, Math.floor(p));
    return { whole, fraction: p - whole, stride: [grid * grid, grid, 1][i] ?? 1 };
  });
  const order = [...axis].sort((p, q) => q.fraction - p.fraction);
  let corner = axis.reduce((sum, a) => sum + a.whole * a.stride, 0);
  const out: [number, number, number, number] = [0, 0, 0, 0];
  let last = 1;
  const add = (weight: number) => {
    for (let i = 0; i < 4; i++) out[i as 0 | 1 | 2 | 3] += ((table[corner * 4 + i] ?? 0) * weight) / 65280;
  };
  for (const a of order) {
    add(last - a.fraction);
    corner += a.stride;
    last = a.fraction;
  }
  add(last);
  return out.map((v) => v * 255) as [number, number, number, number];
}

/** Between five corners, in floating point. @param places of the four inputs, 0…grid − 1; table values 0…65280, grid⁴ × 4 */
export function lookup4Pixel(places: readonly number[], table: Uint16Array, grid: number): number[] {
  const axis = places.map((place, i) => {
    const whole = Math.min(grid - 2, Math.floor(place));
    return { whole, fraction: place - whole, stride: grid ** (3 - i) };
  });
  let corner = axis.reduce((sum, { whole, stride }) => sum + whole * stride, 0);
  let last = 1;
  const out = [0, 0, 0, 0];
  const add = (weight: number) => out.forEach((v, i) => (out[i] = v + ((table[corner * 4 + i] ?? 0) * weight) / 256));
  for (const { fraction, stride } of [...axis].sort((p, q) => q.fraction - p.fraction)) {
    add(last - fraction);
    corner += stride;
    last = fraction;
  }
  add(last);
  return out;
}
