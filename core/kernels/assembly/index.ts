// The hot loops of the RIP, in AssemblyScript with SIMD. Every function has a plain twin in ../twin.ts
// that is its oracle; ../kernels.ts places the memory. Pointers are byte offsets; a composed row is interleaved CMYK, 8 bits,
// as the interpreter gives it; a plane is one ink.

/** Whether `length` bytes (a multiple of 16) are all zero. */
export function isBlank(source: usize, length: i32): bool {
  for (let i: usize = 0; i < <usize>length; i += 16) {
    if (v128.any_true(v128.load(source + i))) return false;
  }
  return true;
}

// Levels 0…3 of one ink for 16 pixels → 4 bytes, first pixel in the high bits.
// @ts-ignore: decorator
@inline
function pack16(levels: v128): u32 {
  // Pairs of pixels to 4 bits, then pairs of those to 8; lanes are little-endian, so the left pixel is the low byte.
  const pairs = v128.and(
    v128.or(i16x8.shl(levels, 2), i16x8.shr_u(levels, 8)),
    i16x8.splat(15)
  );
  const quads = v128.and(v128.or(i32x4.shl(pairs, 4), i32x4.shr_u(pairs, 16)), i32x4.splat(255));
  const bytes = i8x16.swizzle(quads, i8x16(0, 4, 8, 12, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1));
  return <u32>i32x4.extract_lane(bytes, 0);
}

/**
 * Takes composed pixels of four channels apart.
 *
 * @param source `width` (a multiple of 16) × 4 bytes
 * @param target four rows of `width` bytes, at a distance of `stride`
 */
export function splitRow(source: usize, width: i32, target: usize, stride: i32): void {
  const step = <usize>stride;
  for (let x: usize = 0; x < <usize>width; x += 16) {
    const at = source + (x << 2);
    const s0 = v128.load(at);
    const s1 = v128.load(at, 16);
    const s2 = v128.load(at, 32);
    const s3 = v128.load(at, 48);
    // 4 × (CMYK CMYK CMYK CMYK) → C×16, M×16, Y×16, K×16
    const a0 = i8x16.shuffle(s0, s1, 0, 4, 8, 12, 16, 20, 24, 28, 1, 5, 9, 13, 17, 21, 25, 29);
    const a1 = i8x16.shuffle(s2, s3, 0, 4, 8, 12, 16, 20, 24, 28, 1, 5, 9, 13, 17, 21, 25, 29);
    const b0 = i8x16.shuffle(s0, s1, 2, 6, 10, 14, 18, 22, 26, 30, 3, 7, 11, 15, 19, 23, 27, 31);
    const b1 = i8x16.shuffle(s2, s3, 2, 6, 10, 14, 18, 22, 26, 30, 3, 7, 11, 15, 19, 23, 27, 31);
    const out = target + x;
    v128.store(out, i64x2.shuffle(a0, a1, 0, 2));
    v128.store(out + step, i64x2.shuffle(a0, a1, 1, 3));
    v128.store(out + step * 2, i64x2.shuffle(b0, b1, 0, 2));
    v128.store(out + step * 3, i64x2.shuffle(b0, b1, 1, 3));
  }
}

/**
 * Keeps composed pixels of four channels within the total ink limit: black stays, the other three give way alike.
 *
 * @param row `width` (a multiple of 16) × 4 bytes, changed in place
 * @param totals four tables of 256 u16: what a value takes of ink
 * @param limit in the same parts
 * @param safe no pixel whose values sum to this or less is above the limit
 * @param coarse for values of 16 together the most that any channel's takes, 16 bytes in parts of limit / 64
 */
export function limitRow(row: usize, width: i32, totals: usize, limit: i32, safe: i32, coarse: usize): void {
  const bytes = <usize>width * 4;
  const most = i32x4.splat(safe);
  const buckets = v128.load(coarse);
  const mostCoarse = i32x4.splat(limit >> 6);
  for (let at = row; at < row + bytes; at += 16) {
    const pixels = v128.load(at);
    const sums = i32x4.extadd_pairwise_i16x8_u(i16x8.extadd_pairwise_i8x16_u(pixels));
    if (!v128.any_true(i32x4.gt_s(sums, most))) continue;
    const bounds = i8x16.swizzle(buckets, i8x16.shr_u(pixels, 4));
    const bound = i32x4.extadd_pairwise_i16x8_u(i16x8.extadd_pairwise_i8x16_u(bounds));
    if (!v128.any_true(i32x4.gt_s(bound, mostCoarse))) continue;
    for (let p = at; p < at + 16; p += 4) limitPixel(p, totals, limit);
  }
}

function limitPixel(pixel: usize, totals: usize, limit: i32): void {
  const c = total(totals, load<u8>(pixel));
  const m = total(totals + 512, load<u8>(pixel, 1));
  const y = total(totals + 1024, load<u8>(pixel, 2));
  let k = total(totals + 1536, load<u8>(pixel, 3));
  if (c + m + y + k <= limit) return;
  if (k > limit) {
    store<u8>(pixel, within(totals + 1536, load<u8>(pixel, 3), k, limit), 3);
    k = limit;
  }
  const room = limit - k;
  const colours = c + m + y;
  store<u8>(pixel, within(totals, load<u8>(pixel), c, <i32>((<i64>c * room) / colours)));
  store<u8>(pixel, within(totals + 512, load<u8>(pixel, 1), m, <i32>((<i64>m * room) / colours)), 1);
  store<u8>(pixel, within(totals + 1024, load<u8>(pixel, 2), y, <i32>((<i64>y * room) / colours)), 2);
}

// @ts-ignore: decorator
@inline
function total(table: usize, value: i32): i32 {
  return <i32>load<u16>(table + (<usize>value << 1));
}

/**
 * A value up to `value` whose total is no more than `most`: the largest where totals rise.
 * Looked for from where a straight curve would have it, which is near.
 *
 * @param now the total of `value`
 */
function within(table: usize, value: i32, now: i32, most: i32): u8 {
  if (now <= most) return <u8>value;
  let v: i32 = (value * most) / now;
  while (v > 0 && total(table, v) > most) v--;
  while (v < value && total(table, v + 1) <= most) v++;
  return <u8>v;
}

/** Values of a row (`width` a multiple of 16) through a table of 256 bytes whose first is 0, into a row of its own. */
export function mapRow(source: usize, width: i32, table: usize, target: usize): void {
  for (let x: usize = 0; x < <usize>width; x += 16) {
    if (!v128.any_true(v128.load(source + x))) {
      v128.store(target + x, i8x16.splat(0));
      continue;
    }
    for (let p = x; p < x + 16; p += 4) {
      const four = load<u32>(source + p);
      store<u32>(
        target + p,
        <u32>load<u8>(table + <usize>(four & 255)) |
          (<u32>load<u8>(table + <usize>((four >> 8) & 255)) << 8) |
          (<u32>load<u8>(table + <usize>((four >> 16) & 255)) << 16) |
          (<u32>load<u8>(table + <usize>(four >> 24)) << 24)
      );
    }
  }
}

/**
 * Screens one row of one ink to packed 2 bits.
 *
 * @param source `width` (a multiple of 16) bytes
 * @param threshold the row of three threshold tables, each `period` bytes, at a distance of `tableBytes`
 * @param target width / 4 bytes
 * @returns whether there is any ink in the row; `target` is not written where there is none
 */
export function screenPlane(
  source: usize,
  width: i32,
  threshold: usize,
  tableBytes: i32,
  period: i32,
  target: usize
): bool {
  const mask = <usize>(period - 1);
  const second = threshold + <usize>tableBytes;
  const third = second + <usize>tableBytes;
  const one = i8x16.splat(1);
  let x: usize = 0;
  while (x < <usize>width && !v128.any_true(v128.load(source + x))) x += 16;
  if (x == <usize>width) return false;
  memory.fill(target, 0, x >> 2);
  for (; x < <usize>width; x += 16) {
    const s = v128.load(source + x);
    const t = x & mask;
    // A comparison gives −1, so that three of them subtract to the level.
    let levels = v128.and(i8x16.gt_u(s, v128.load(threshold + t)), one);
    levels = i8x16.sub(levels, i8x16.gt_u(s, v128.load(second + t)));
    levels = i8x16.sub(levels, i8x16.gt_u(s, v128.load(third + t)));
    store<u32>(target + (x >> 2), pack16(levels));
  }
  return true;
}

/**
 * Error diffusion (Floyd–Steinberg 1976, serpentine) of one row of up to four inks, one in each lane of a vector.
 * Amounts are in 1/256 of an 8-bit step times 16: full ink is 65280.
 *
 * @param sources addresses of four rows of `width` bytes, u32 each
 * @param curve four tables of 256 i32: the ink amount (0…65280) for a pixel value
 * @param steps vectors of i32: amounts of level 1, 2, 3; then the half-way points between the levels
 * @param noise `period` × 4 bytes, the row of a mask that perturbs the decision so that no worms form
 * @param errors (width + 2) vectors of i32, carried from row to row; the next row's errors are left in their place
 * @param levels addresses of four rows of `width` bytes out, 0…3, u32 each
 */
export function diffuseRow(
  sources: usize,
  width: i32,
  curve: usize,
  steps: usize,
  noise: usize,
  period: i32,
  errors: usize,
  levels: usize,
  leftwards: bool
): void {
  const level1 = v128.load(steps);
  const level2 = v128.load(steps, 16);
  const level3 = v128.load(steps, 32);
  const half1 = v128.load(steps, 48);
  const half2 = v128.load(steps, 64);
  const half3 = v128.load(steps, 80);
  const source0 = <usize>load<u32>(sources);
  const source1 = <usize>load<u32>(sources, 4);
  const source2 = <usize>load<u32>(sources, 8);
  const source3 = <usize>load<u32>(sources, 12);
  const out0 = <usize>load<u32>(levels);
  const out1 = <usize>load<u32>(levels, 4);
  const out2 = <usize>load<u32>(levels, 8);
  const out3 = <usize>load<u32>(levels, 12);
  const noiseMask = period - 1;
  const direction: i32 = leftwards ? -1 : 1;
  let x: i32 = leftwards ? width - 1 : 0;
  // Errors that wait: to the next pixel of this row, and to the row below behind and under the pixel.
  let ahead = i32x4.splat(0);
  let below = i32x4.splat(0);
  let behind = i32x4.splat(0);
  for (let i = 0; i < width; i++) {
    const at = <usize>x;
    const slot = errors + ((at + 1) << 4);
    let wanted = i32x4(
      load<i32>(curve + (<usize>load<u8>(source0 + at) << 2)),
      load<i32>(curve + 1024 + (<usize>load<u8>(source1 + at) << 2)),
      load<i32>(curve + 2048 + (<usize>load<u8>(source2 + at) << 2)),
      load<i32>(curve + 3072 + (<usize>load<u8>(source3 + at) << 2))
    );
    // Pixels without ink take no drop, and the error that comes to white paper is dropped there.
    const inked = i32x4.gt_s(wanted, i32x4.splat(0));
    wanted = v128.and(i32x4.add(wanted, i32x4.add(ahead, v128.load(slot))), inked);
    const n = v128.load32_zero(noise + (<usize>(x & noiseMask) << 2));
    const shake = i32x4.shl(
      i32x4.sub(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(n)), i32x4.splat(128)),
      5
    );
    const decided = i32x4.add(wanted, v128.and(shake, inked));
    const over1 = i32x4.gt_s(decided, half1);
    const over2 = i32x4.gt_s(decided, half2);
    const over3 = i32x4.gt_s(decided, half3);
    let given = v128.and(over1, level1);
    given = v128.bitselect(level2, given, over2);
    given = v128.bitselect(level3, given, over3);
    const error = i32x4.sub(wanted, given);
    const level = i32x4.neg(i32x4.add(over1, i32x4.add(over2, over3)));
    store<u8>(out0 + at, <u8>i32x4.extract_lane(level, 0));
    store<u8>(out1 + at, <u8>i32x4.extract_lane(level, 1));
    store<u8>(out2 + at, <u8>i32x4.extract_lane(level, 2));
    store<u8>(out3 + at, <u8>i32x4.extract_lane(level, 3));
    // 7/16 ahead, 3/16 below behind, 5/16 below, the rest below ahead: nothing is lost to rounding.
    const e7 = i32x4.shr_s(i32x4.mul(error, i32x4.splat(7)), 4);
    const e3 = i32x4.shr_s(i32x4.mul(error, i32x4.splat(3)), 4);
    const e5 = i32x4.shr_s(i32x4.mul(error, i32x4.splat(5)), 4);
    const e1 = i32x4.sub(error, i32x4.add(e7, i32x4.add(e3, e5)));
    // The slot behind is done being read in this row, so that it can take the next row's errors.
    v128.store(errors + (<usize>(x + 1 - direction) << 4), i32x4.add(behind, e3));
    behind = i32x4.add(below, e5);
    below = e1;
    ahead = e7;
    x += direction;
  }
  v128.store(errors + (<usize>(x + 1 - direction) << 4), behind);
}

/** Packs levels (0…3, `width` a multiple of 16) to 2 bits. */
export function packPlane(levels: usize, width: i32, target: usize): void {
  for (let x: usize = 0; x < <usize>width; x += 16) store<u32>(target + (x >> 2), pack16(v128.load(levels + x)));
}

/**
 * PackBits (TIFF 6.0, section 9) of one row.
 *
 * @returns bytes written, at most length + length / 128 + 1
 */
export function packBits(source: usize, length: i32, target: usize): i32 {
  let at: usize = source;
  const end = source + <usize>length;
  let out = target;
  while (at < end) {
    const value = load<u8>(at);
    let run: usize = 1;
    const limit = end - at < 128 ? end - at : 128;
    const wide = i8x16.splat(value);
    while (run + 16 <= limit && i8x16.all_true(i8x16.eq(v128.load(at + run), wide))) run += 16;
    while (run < limit && load<u8>(at + run) == value) run++;
    if (run >= 3) {
      store<u8>(out, <u8>(257 - <i32>run));
      store<u8>(out + 1, value);
      out += 2;
      at += run;
      continue;
    }
    // A literal goes on until three equal bytes follow.
    const start = at;
    const most = end - at < 128 ? end - at : 128;
    let count: usize = 0;
    // Sixteen at once where none of them begins a run of three.
    while (count + 16 <= most && start + count + 18 <= end) {
      const p = start + count;
      const next = v128.load(p, 1);
      if (v128.any_true(v128.and(i8x16.eq(v128.load(p), next), i8x16.eq(next, v128.load(p, 2))))) break;
      count += 16;
    }
    while (count < most) {
      const p = start + count;
      if (p + 2 < end && load<u8>(p) == load<u8>(p + 1) && load<u8>(p) == load<u8>(p + 2)) break;
      count++;
    }
    store<u8>(out, <u8>(count - 1));
    memory.copy(out + 1, start, count);
    out += count + 1;
    at += count;
  }
  return <i32>(out - target);
}

/**
 * PackBits the other way: rows of `length` bytes in all.
 *
 * @returns whether the data fill them, and none of them runs over; what comes after is passed over
 */
export function unpackBits(source: usize, packed: i32, target: usize, length: i32): bool {
  let at: usize = source;
  const end = source + <usize>packed;
  let to: usize = target;
  const full = target + <usize>length;
  while (to < full) {
    if (at >= end) return false;
    const head = <usize>load<u8>(at++);
    if (head == 128) continue;
    if (head < 128) {
      const count = head + 1;
      if (to + count > full || at + count > end) return false;
      memory.copy(to, at, count);
      at += count;
      to += count;
    } else {
      const count = 257 - head;
      if (to + count > full || at >= end) return false;
      memory.fill(to, load<u8>(at++), count);
      to += count;
    }
  }
  return true;
}

/**
 * Counts drops of each size in one packed row.
 *
 * @param length bytes, a multiple of 16; what is past the row's end must be zero
 * @param counts three u32 to add to: drops of level 1, 2, 3
 */
export function countDrops(source: usize, length: i32, counts: usize): void {
  const low = i8x16.splat(0x55);
  let ones: u32 = 0;
  let twos: u32 = 0;
  let threes: u32 = 0;
  let at: usize = 0;
  while (at < <usize>length) {
    // Byte lanes hold at most 4 drops a vector: 60 vectors fit before a lane is full.
    let stop = at + 960;
    if (stop > <usize>length) stop = <usize>length;
    let n1 = i8x16.splat(0);
    let n2 = i8x16.splat(0);
    let n3 = i8x16.splat(0);
    for (; at < stop; at += 16) {
      const v = v128.load(source + at);
      const lo = v128.and(v, low);
      const hi = v128.and(i16x8.shr_u(v, 1), low);
      n1 = i8x16.add(n1, i8x16.popcnt(v128.andnot(lo, hi)));
      n2 = i8x16.add(n2, i8x16.popcnt(v128.andnot(hi, lo)));
      n3 = i8x16.add(n3, i8x16.popcnt(v128.and(lo, hi)));
    }
    ones += lanes(n1);
    twos += lanes(n2);
    threes += lanes(n3);
  }
  store<u32>(counts, load<u32>(counts) + ones);
  store<u32>(counts, load<u32>(counts, 4) + twos, 4);
  store<u32>(counts, load<u32>(counts, 8) + threes, 8);
}

// @ts-ignore: decorator
@inline
function lanes(v: v128): u32 {
  const s = i32x4.extadd_pairwise_i16x8_u(i16x8.extadd_pairwise_i8x16_u(v));
  return <u32>(
    (i32x4.extract_lane(s, 0) + i32x4.extract_lane(s, 1) + i32x4.extract_lane(s, 2) + i32x4.extract_lane(s, 3))
  );
}

/**
 * Adds one packed row to sums of ink over cells of 8 pixels.
 *
 * @param source packed row, `cells` × 2 bytes
 * @param amounts table of 256 u16: the ink of the four pixels in a byte, summed
 * @param sums `cells` u32
 */
export function addCells(source: usize, cells: i32, amounts: usize, sums: usize): void {
  for (let i: usize = 0; i < <usize>cells; i++) {
    const pair = load<u16>(source + (i << 1));
    if (pair == 0) continue;
    const sum = <u32>load<u16>(amounts + (<usize>(pair & 255) << 1)) + <u32>load<u16>(amounts + (<usize>(pair >> 8) << 1));
    store<u32>(sums + (i << 2), load<u32>(sums + (i << 2)) + sum);
  }
}

/**
 * Interpolates a table of three inputs and four outputs (RGB → CMYK) in tetrahedra; the lanes of a vector hold the outputs.
 *
 * @param table grid³ × 4 u16 values of 0…65280, first input slowest
 * @param source 3 bytes a pixel
 * @param target 4 bytes a pixel
 */
export function lookup3(source: usize, count: i32, table: usize, grid: i32, target: usize): void {
  const steps = <u32>(grid - 1);
  const s2: u64 = 8;
  const s1 = <u64>grid * s2;
  const s0 = <u64>grid * s1;
  let before: u32 = ~0;
  let made: u32 = 0;
  for (let i: i32 = 0; i < count; i++) {
    const at = source + <usize>i * 3;
    const pixel = <u32>load<u8>(at) | (<u32>load<u8>(at, 1) << 8) | (<u32>load<u8>(at, 2) << 16);
    // Flat areas are many of one colour.
    if (pixel != before) {
      before = pixel;
      const p0 = (pixel & 255) * steps;
      const p1 = ((pixel >> 8) & 255) * steps;
      const p2 = (pixel >> 16) * steps;
      // The last point is the far end of the cell before it: nothing beyond the table is read.
      const i0 = min<u32>(p0 / 255, steps - 1);
      const i1 = min<u32>(p1 / 255, steps - 1);
      const i2 = min<u32>(p2 / 255, steps - 1);
      // Tetrahedral interpolation: from the low corner along the axes, the farthest first. How far in the high bits and the way
      // to the next point in the low ones are sorted together, without branches: which comes first is as good as chance.
      let a = <u64>(p0 - i0 * 255) << 32 | s0;
      let b = <u64>(p1 - i1 * 255) << 32 | s1;
      let c = <u64>(p2 - i2 * 255) << 32 | s2;
      let low = min<u64>(a, b); a = max<u64>(a, b); b = low;
      low = min<u64>(b, c); b = max<u64>(b, c); c = low;
      low = min<u64>(a, b); a = max<u64>(a, b); b = low;
      const fa = <u32>(a >> 32);
      const fb = <u32>(b >> 32);
      const fc = <u32>(c >> 32);
      let corner = table + <usize>i0 * <usize>s0 + <usize>i1 * <usize>s1 + <usize>i2 * <usize>s2;
      let sum = i32x4.mul(i32x4.extend_low_i16x8_u(v128.load64_zero(corner)), i32x4.splat(255 - fa));
      corner += <usize>(<u32>a);
      sum = i32x4.add(sum, i32x4.mul(i32x4.extend_low_i16x8_u(v128.load64_zero(corner)), i32x4.splat(fa - fb)));
      corner += <usize>(<u32>b);
      sum = i32x4.add(sum, i32x4.mul(i32x4.extend_low_i16x8_u(v128.load64_zero(corner)), i32x4.splat(fb - fc)));
      corner += <usize>(<u32>c);
      sum = i32x4.add(sum, i32x4.mul(i32x4.extend_low_i16x8_u(v128.load64_zero(corner)), i32x4.splat(fc)));
      // Divide by 65280 = 256 · 255, rounding; the small addend keeps whole results whole after the float product.
      const scaled = i32x4.shr_u(i32x4.add(sum, i32x4.splat(32640)), 8);
      const out = f32x4.mul(f32x4.convert_i32x4_u(scaled), f32x4.splat(1.0 / 255.0));
      const whole = i32x4.trunc_sat_f32x4_u(f32x4.add(out, f32x4.splat(0.001)));
      const bytes = i8x16.swizzle(whole, i8x16(0, 4, 8, 12, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1));
      made = <u32>i32x4.extract_lane(bytes, 0);
    }
    store<u32>(target + (<usize>i << 2), made);
  }
}

/**
 * Interpolates a table of four inputs and four outputs between five of a cell's sixteen corners (simplices); the lanes of a vector
 * hold the outputs.
 *
 * @param source 4 bytes a pixel
 * @param places 4 × 256 u16: for each value of each input the point below it, times 512, and how far beyond in parts of 256
 * @param table grid⁴ × 4 u16 values of 0…65280, first input slowest
 * @param target 4 bytes a pixel
 */
export function lookup4(source: usize, count: i32, places: usize, table: usize, grid: i32, target: usize): void {
  const s3: u64 = 8;
  const s2 = <u64>grid * s3;
  const s1 = <u64>grid * s2;
  const s0 = <u64>grid * s1;
  let before: u32 = ~load<u32>(source);
  let made: u32 = 0;
  for (let i: i32 = 0; i < count; i++) {
    const pixel = load<u32>(source + (<usize>i << 2));
    // Flat areas are many of one colour.
    if (pixel != before) {
      before = pixel;
      const p0 = <u32>load<u16>(places + (<usize>(pixel & 255) << 1));
      const p1 = <u32>load<u16>(places + 512 + (<usize>((pixel >> 8) & 255) << 1));
      const p2 = <u32>load<u16>(places + 1024 + (<usize>((pixel >> 16) & 255) << 1));
      const p3 = <u32>load<u16>(places + 1536 + (<usize>(pixel >> 24) << 1));
      // How far beyond in the high bits and the way to the next point in the low ones: sorted together, the farthest first.
      // Without branches: which comes first is as good as chance.
      let a = <u64>(p0 & 511) << 32 | s0;
      let b = <u64>(p1 & 511) << 32 | s1;
      let c = <u64>(p2 & 511) << 32 | s2;
      let d = <u64>(p3 & 511) << 32 | s3;
      let low = min<u64>(a, b); a = max<u64>(a, b); b = low;
      low = min<u64>(c, d); c = max<u64>(c, d); d = low;
      low = min<u64>(a, c); a = max<u64>(a, c); c = low;
      low = min<u64>(b, d); b = max<u64>(b, d); d = low;
      low = min<u64>(b, c); b = max<u64>(b, c); c = low;
      const fa = <u32>(a >> 32);
      const fb = <u32>(b >> 32);
      const fc = <u32>(c >> 32);
      const fd = <u32>(d >> 32);
      let corner = table + <usize>(p0 >> 9) * <usize>s0 + <usize>(p1 >> 9) * <usize>s1 + <usize>(p2 >> 9) * <usize>s2 + <usize>(p3 >> 9) * <usize>s3;
      let sum = i32x4.mul(i32x4.extend_low_i16x8_u(v128.load64_zero(corner)), i32x4.splat(256 - fa));
      corner += <usize>(<u32>a);
      sum = i32x4.add(sum, i32x4.mul(i32x4.extend_low_i16x8_u(v128.load64_zero(corner)), i32x4.splat(fa - fb)));
      corner += <usize>(<u32>b);
      sum = i32x4.add(sum, i32x4.mul(i32x4.extend_low_i16x8_u(v128.load64_zero(corner)), i32x4.splat(fb - fc)));
      corner += <usize>(<u32>c);
      sum = i32x4.add(sum, i32x4.mul(i32x4.extend_low_i16x8_u(v128.load64_zero(corner)), i32x4.splat(fc - fd)));
      corner += <usize>(<u32>d);
      sum = i32x4.add(sum, i32x4.mul(i32x4.extend_low_i16x8_u(v128.load64_zero(corner)), i32x4.splat(fd)));
      // Of 255 × 256 × 256 parts, rounded.
      const whole = i32x4.shr_u(i32x4.add(sum, i32x4.splat(32768)), 16);
      const bytes = i8x16.swizzle(whole, i8x16(0, 4, 8, 12, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1));
      made = <u32>i32x4.extract_lane(bytes, 0);
    }
    store<u32>(target + (<usize>i << 2), made);
  }
}

/**
 * The least of what lies around each pixel: erosion by a disc whose rim counts in part.
 *
 * @param source the first pixel; `reach` rows stand above and below the `rows`, and on both sides columns that hold `reach`,
 *   in whole 16, all of `stride` bytes
 * @param width a multiple of 16
 * @param around `count` i32: how far in bytes each of the places around lies
 * @param floors `count` bytes: no less than this is taken of each
 * @param seen room for an i32 for each 16 pixels of a row with its sides
 * @param target `rows` rows of `width` bytes
 */
export function erode(
  source: usize,
  stride: i32,
  width: i32,
  rows: i32,
  reach: i32,
  around: usize,
  floors: usize,
  count: i32,
  seen: usize,
  target: usize
): void {
  const sides = (reach + 15) >> 4;
  const blocks = (width >> 4) + 2 * sides;
  const full = i8x16.splat(-1);
  // By 16 columns the last row that was not full: where all near rows were, the answer is known.
  for (let b = 0; b < blocks; b++) store<i32>(seen + (<usize>b << 2), -reach - 1);
  for (let row = -reach; row < rows + reach; row++) {
    const line = source + row * stride - <usize>sides * 16;
    for (let b = 0; b < blocks; b++)
      if (!i8x16.all_true(i8x16.eq(v128.load(line + <usize>b * 16), full))) store<i32>(seen + (<usize>b << 2), row);
    const y = row - reach;
    if (y < 0) continue;
    for (let x = 0; x < width; x += 16) {
      const out = target + y * width + x;
      let near: bool = false;
      for (let b = x >> 4; b <= (x >> 4) + 2 * sides && !near; b++) near = load<i32>(seen + (<usize>b << 2)) >= y - reach;
      if (!near) {
        v128.store(out, full);
        continue;
      }
      const at = source + y * stride + x;
      let least = v128.load(at);
      for (let i = 0; i < count && v128.any_true(least); i++) {
        const one = v128.load(at + load<i32>(around + (<usize>i << 2)));
        least = i8x16.min_u(least, i8x16.max_u(one, i8x16.splat(load<u8>(floors + i))));
      }
      v128.store(out, least);
    }
  }
}
