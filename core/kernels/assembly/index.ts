// The hot loops of the RIP, in AssemblyScript with SIMD. Every function has a plain twin in ../twin.ts
// that is its oracle; ../kernels.ts places the memory. Pointers are byte offsets; rows are interleaved CMYK, 8 bits.

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
 * Screens one row of CMYK to four packed rows of 2 bits.
 *
 * @param source `width` (a multiple of 16) × 4 bytes
 * @param threshold the row of three threshold tables, each `period` × 4 bytes, at a distance of `tableBytes`
 * @param target four rows at a distance of `planeBytes`, each width / 4 bytes
 */
export function screenRow(
  source: usize,
  width: i32,
  threshold: usize,
  tableBytes: i32,
  period: i32,
  target: usize,
  planeBytes: i32
): void {
  const mask = <usize>(period * 4 - 1);
  const second = threshold + <usize>tableBytes;
  const third = second + <usize>tableBytes;
  const bytes = <usize>width * 4;
  const one = i8x16.splat(1);
  for (let at: usize = 0; at < bytes; at += 64) {
    const s0 = v128.load(source + at);
    const s1 = v128.load(source + at, 16);
    const s2 = v128.load(source + at, 32);
    const s3 = v128.load(source + at, 48);
    const out = target + (at >> 4);
    if (!v128.any_true(v128.or(v128.or(s0, s1), v128.or(s2, s3)))) {
      store<u32>(out, 0);
      store<u32>(out + <usize>planeBytes, 0);
      store<u32>(out + <usize>planeBytes * 2, 0);
      store<u32>(out + <usize>planeBytes * 3, 0);
      continue;
    }
    const t = at & mask;
    // A comparison gives −1, so that three of them subtract to the level.
    let l0 = v128.and(i8x16.gt_u(s0, v128.load(threshold + t)), one);
    l0 = i8x16.sub(l0, i8x16.gt_u(s0, v128.load(second + t)));
    l0 = i8x16.sub(l0, i8x16.gt_u(s0, v128.load(third + t)));
    let l1 = v128.and(i8x16.gt_u(s1, v128.load(threshold + t, 16)), one);
    l1 = i8x16.sub(l1, i8x16.gt_u(s1, v128.load(second + t, 16)));
    l1 = i8x16.sub(l1, i8x16.gt_u(s1, v128.load(third + t, 16)));
    let l2 = v128.and(i8x16.gt_u(s2, v128.load(threshold + t, 32)), one);
    l2 = i8x16.sub(l2, i8x16.gt_u(s2, v128.load(second + t, 32)));
    l2 = i8x16.sub(l2, i8x16.gt_u(s2, v128.load(third + t, 32)));
    let l3 = v128.and(i8x16.gt_u(s3, v128.load(threshold + t, 48)), one);
    l3 = i8x16.sub(l3, i8x16.gt_u(s3, v128.load(second + t, 48)));
    l3 = i8x16.sub(l3, i8x16.gt_u(s3, v128.load(third + t, 48)));
    // 4 × (CMYK CMYK CMYK CMYK) → C×16, M×16, Y×16, K×16
    const a0 = i8x16.shuffle(l0, l1, 0, 4, 8, 12, 16, 20, 24, 28, 1, 5, 9, 13, 17, 21, 25, 29);
    const a1 = i8x16.shuffle(l2, l3, 0, 4, 8, 12, 16, 20, 24, 28, 1, 5, 9, 13, 17, 21, 25, 29);
    const b0 = i8x16.shuffle(l0, l1, 2, 6, 10, 14, 18, 22, 26, 30, 3, 7, 11, 15, 19, 23, 27, 31);
    const b1 = i8x16.shuffle(l2, l3, 2, 6, 10, 14, 18, 22, 26, 30, 3, 7, 11, 15, 19, 23, 27, 31);
    store<u32>(out, pack16(i64x2.shuffle(a0, a1, 0, 2)));
    store<u32>(out + <usize>planeBytes, pack16(i64x2.shuffle(a0, a1, 1, 3)));
    store<u32>(out + <usize>planeBytes * 2, pack16(i64x2.shuffle(b0, b1, 0, 2)));
    store<u32>(out + <usize>planeBytes * 3, pack16(i64x2.shuffle(b0, b1, 1, 3)));
  }
}

/**
 * Error diffusion (Floyd–Steinberg 1976, serpentine) of one row, four inks in the lanes of a vector.
 * Amounts are in 1/256 of an 8-bit step times 16: full ink is 65280.
 *
 * @param source `width` × 4 bytes
 * @param curve four tables of 256 i32: the ink amount (0…65280) for a pixel value
 * @param steps i32: amounts of level 1, 2, 3; then the half-way points between the levels
 * @param noise `period` × 4 bytes, the row of a mask that perturbs the decision so that no worms form
 * @param errors (width + 2) vectors of i32, carried from row to row; the next row's errors are left in their place
 * @param levels `width` × 4 bytes out, 0…3
 */
export function diffuseRow(
  source: usize,
  width: i32,
  curve: usize,
  steps: usize,
  noise: usize,
  period: i32,
  errors: usize,
  levels: usize,
  leftwards: bool
): void {
  const one = load<i32>(steps);
  const two = load<i32>(steps, 4);
  const three = load<i32>(steps, 8);
  const level1 = i32x4.splat(one);
  const level2 = i32x4.splat(two);
  const level3 = i32x4.splat(three);
  const half1 = i32x4.splat(load<i32>(steps, 12));
  const half2 = i32x4.splat(load<i32>(steps, 16));
  const half3 = i32x4.splat(load<i32>(steps, 20));
  const noiseMask = period - 1;
  const direction: i32 = leftwards ? -1 : 1;
  let x: i32 = leftwards ? width - 1 : 0;
  // Errors that wait: to the next pixel of this row, and to the row below behind and under the pixel.
  let ahead = i32x4.splat(0);
  let below = i32x4.splat(0);
  let behind = i32x4.splat(0);
  for (let i = 0; i < width; i++) {
    const at = <usize>x << 2;
    const slot = errors + ((<usize>x + 1) << 4);
    const pixel = load<u32>(source + at);
    let wanted = i32x4(
      load<i32>(curve + (<usize>(pixel & 255) << 2)),
      load<i32>(curve + 1024 + (<usize>((pixel >> 8) & 255) << 2)),
      load<i32>(curve + 2048 + (<usize>((pixel >> 16) & 255) << 2)),
      load<i32>(curve + 3072 + (<usize>(pixel >> 24) << 2))
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
    const packed = i8x16.swizzle(level, i8x16(0, 4, 8, 12, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1));
    store<u32>(levels + at, <u32>i32x4.extract_lane(packed, 0));
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

/** Packs levels (interleaved, 0…3, `width` a multiple of 16) to four planes of 2 bits. */
export function packRow(levels: usize, width: i32, target: usize, planeBytes: i32): void {
  const bytes = <usize>width * 4;
  for (let at: usize = 0; at < bytes; at += 64) {
    const l0 = v128.load(levels + at);
    const l1 = v128.load(levels + at, 16);
    const l2 = v128.load(levels + at, 32);
    const l3 = v128.load(levels + at, 48);
    const a0 = i8x16.shuffle(l0, l1, 0, 4, 8, 12, 16, 20, 24, 28, 1, 5, 9, 13, 17, 21, 25, 29);
    const a1 = i8x16.shuffle(l2, l3, 0, 4, 8, 12, 16, 20, 24, 28, 1, 5, 9, 13, 17, 21, 25, 29);
    const b0 = i8x16.shuffle(l0, l1, 2, 6, 10, 14, 18, 22, 26, 30, 3, 7, 11, 15, 19, 23, 27, 31);
    const b1 = i8x16.shuffle(l2, l3, 2, 6, 10, 14, 18, 22, 26, 30, 3, 7, 11, 15, 19, 23, 27, 31);
    const out = target + (at >> 4);
    store<u32>(out, pack16(i64x2.shuffle(a0, a1, 0, 2)));
    store<u32>(out + <usize>planeBytes, pack16(i64x2.shuffle(a0, a1, 1, 3)));
    store<u32>(out + <usize>planeBytes * 2, pack16(i64x2.shuffle(b0, b1, 0, 2)));
    store<u32>(out + <usize>planeBytes * 3, pack16(i64x2.shuffle(b0, b1, 1, 3)));
  }
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
  const strideY = <usize>grid * 8;
  const strideX = strideY * <usize>grid;
  for (let i: i32 = 0; i < count; i++) {
    const at = source + <usize>i * 3;
    const px = <u32>load<u8>(at) * steps;
    const py = <u32>load<u8>(at, 1) * steps;
    const pz = <u32>load<u8>(at, 2) * steps;
    const ix = px / 255;
    const iy = py / 255;
    const iz = pz / 255;
    let fx = px - ix * 255;
    let fy = py - iy * 255;
    let fz = pz - iz * 255;
    // Tetrahedral interpolation: walk from the low corner along the axes in falling order of their fraction.
    let dx: usize = strideX;
    let dy: usize = strideY;
    let dz: usize = 8;
    let hold: u32 = 0;
    let step: usize = 0;
    if (fx < fy) { hold = fx; fx = fy; fy = hold; step = dx; dx = dy; dy = step; }
    if (fy < fz) { hold = fy; fy = fz; fz = hold; step = dy; dy = dz; dz = step; }
    if (fx < fy) { hold = fx; fx = fy; fy = hold; step = dx; dx = dy; dy = step; }
    const base = table + <usize>ix * strideX + <usize>iy * strideY + <usize>iz * 8;
    let corner = base;
    let sum = i32x4.mul(i32x4.extend_low_i16x8_u(v128.load64_zero(corner)), i32x4.splat(255 - fx));
    if (fx) {
      corner += dx;
      sum = i32x4.add(sum, i32x4.mul(i32x4.extend_low_i16x8_u(v128.load64_zero(corner)), i32x4.splat(fx - fy)));
      if (fy) {
        corner += dy;
        sum = i32x4.add(sum, i32x4.mul(i32x4.extend_low_i16x8_u(v128.load64_zero(corner)), i32x4.splat(fy - fz)));
        if (fz) {
          corner += dz;
          sum = i32x4.add(sum, i32x4.mul(i32x4.extend_low_i16x8_u(v128.load64_zero(corner)), i32x4.splat(fz)));
        }
      }
    }
    // Divide by 65280 = 256 · 255, rounding; the small addend keeps whole results whole after the float product.
    const scaled = i32x4.shr_u(i32x4.add(sum, i32x4.splat(32640)), 8);
    const out = f32x4.mul(f32x4.convert_i32x4_u(scaled), f32x4.splat(1.0 / 255.0));
    const whole = i32x4.trunc_sat_f32x4_u(f32x4.add(out, f32x4.splat(0.001)));
    const bytes = i8x16.swizzle(whole, i8x16(0, 4, 8, 12, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1));
    store<u32>(target + <usize>i * 4, <u32>i32x4.extract_lane(bytes, 0));
  }
}
