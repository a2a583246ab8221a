import type { Triple } from './lab';

/** Ink amounts C, M, Y, K (0…1) → L*a*b* relative to the media, written to `out`. */
export type Forward = (c: number, m: number, y: number, k: number, out: Triple) => void;

/**
 * Colours of an even grid of inks, read between its points by cubic convolution (Keys 1981): smooth enough that
 * colours can be solved for their inks by Newton's steps. At the edges the ghost points follow a parabola.
 */
export class ForwardGrid {
  readonly size: number;
  /** size⁴ × 3, C slowest; in 32 bits, so that it stays in the second-level cache. */
  readonly table: Float32Array;
  readonly #weights = new Float64Array(16);
  readonly #slopes = new Float64Array(16);
  readonly #base = new Int32Array(4);
  /** Sums with K, then Y, then M worked in: values, then their slopes along the inks worked in so far. */
  readonly #overK = new Float64Array(64 * 6);
  readonly #overY = new Float64Array(16 * 9);
  readonly #overM = new Float64Array(4 * 12);

  /** @param onProgress told the share done; throwing there stops the work */
  static sample(forward: Forward, size: number, onProgress: (share: number) => void = () => undefined): ForwardGrid {
    const table = new Float32Array(size ** 4 * 3);
    const lab: Triple = [0, 0, 0];
    const at = (i: number) => i / (size - 1);
    let put = 0;
    for (let c = 0; c < size; c++) {
      for (let m = 0; m < size; m++) {
        for (let y = 0; y < size; y++) {
          for (let k = 0; k < size; k++) {
            forward(at(c), at(m), at(y), at(k), lab);
            table[put++] = lab[0];
            table[put++] = lab[1];
            table[put++] = lab[2];
          }
        }
      }
      onProgress((c + 1) / size);
    }
    return new ForwardGrid(size, table);
  }

  constructor(size: number, table: Float32Array) {
    if (size < 4 || table.length !== size ** 4 * 3) throw new RangeError(`A grid of ${size} needs ${size ** 4 * 3} figures.`);
    this.size = size;
    this.table = table;
  }

  lab(c: number, m: number, y: number, k: number): Triple {
    this.#place(0, c);
    this.#place(1, m);
    this.#place(2, y);
    this.#place(3, k);
    const { table, size } = this;
    const w = this.#weights;
    const base = this.#base;
    const out: Triple = [0, 0, 0];
    for (let i = 0; i < 4; i++) {
      for (let j = 0; j < 4; j++) {
        for (let l = 0; l < 4; l++) {
          const share = w[i]! * w[4 + j]! * w[8 + l]!;
          if (share === 0) continue;
          let at = ((((base[0]! + i) * size + base[1]! + j) * size + base[2]! + l) * size + base[3]!) * 3;
          for (let n = 12; n < 16; n++, at += 3) {
            const weight = share * w[n]!;
            out[0] += weight * table[at]!;
            out[1] += weight * table[at + 1]!;
            out[2] += weight * table[at + 2]!;
          }
        }
      }
    }
    return out;
  }

  /**
   * The colour and its slopes.
   *
   * @param out 15 figures: L*a*b*, then d/dC, d/dM, d/dY, d/dK of each, three at a time
   */
  slopes(c: number, m: number, y: number, k: number, out: Float64Array): void {
    this.#place(0, c);
    this.#place(1, m);
    this.#place(2, y);
    this.#place(3, k);
    const { table, size } = this;
    const w = this.#weights;
    const s = this.#slopes;
    const base = this.#base;
    const overK = this.#overK;
    const overY = this.#overY;
    const overM = this.#overM;
    const [w0, w1, w2, w3] = [w[12]!, w[13]!, w[14]!, w[15]!];
    const [s0, s1, s2, s3] = [s[12]!, s[13]!, s[14]!, s[15]!];
    let put = 0;
    for (let i = 0; i < 4; i++) {
      for (let j = 0; j < 4; j++) {
        for (let l = 0; l < 4; l++, put += 6) {
          const at = ((((base[0]! + i) * size + base[1]! + j) * size + base[2]! + l) * size + base[3]!) * 3;
          overK[put] = w0 * table[at]! + w1 * table[at + 3]! + w2 * table[at + 6]! + w3 * table[at + 9]!;
          overK[put + 1] = w0 * table[at + 1]! + w1 * table[at + 4]! + w2 * table[at + 7]! + w3 * table[at + 10]!;
          overK[put + 2] = w0 * table[at + 2]! + w1 * table[at + 5]! + w2 * table[at + 8]! + w3 * table[at + 11]!;
          overK[put + 3] = s0 * table[at]! + s1 * table[at + 3]! + s2 * table[at + 6]! + s3 * table[at + 9]!;
          overK[put + 4] = s0 * table[at + 1]! + s1 * table[at + 4]! + s2 * table[at + 7]! + s3 * table[at + 10]!;
          overK[put + 5] = s0 * table[at + 2]! + s1 * table[at + 5]! + s2 * table[at + 8]! + s3 * table[at + 11]!;
        }
      }
    }
    contract(overK, 16, 6, w, s, 8, overY);
    contract(overY, 4, 9, w, s, 4, overM);
    for (let v = 0; v < 12; v++) {
      let sum = 0;
      for (let n = 0; n < 4; n++) sum += w[n]! * overM[n * 12 + v]!;
      // The sums hold: value, d/dK, d/dY, d/dM.
      out[v < 3 ? v : 15 - 3 * Math.floor(v / 3) + (v % 3)] = sum;
    }
    for (let v = 0; v < 3; v++) {
      let slope = 0;
      for (let n = 0; n < 4; n++) slope += s[n]! * overM[n * 12 + v]!;
      out[3 + v] = slope;
    }
  }

  /** Weights of four neighbours, and their slopes, along one ink. */
  #place(ink: number, value: number): void {
    const last = this.size - 1;
    const x = Math.min(1, Math.max(0, value)) * last;
    const cell = Math.min(last - 1, Math.floor(x));
    const t = x - cell;
    const w = this.#weights;
    const s = this.#slopes;
    const at = ink * 4;
    const t2 = t * t;
    const t3 = t2 * t;
    const before = -0.5 * t + t2 - 0.5 * t3;
    const here = 1 - 2.5 * t2 + 1.5 * t3;
    const next = 0.5 * t + 2 * t2 - 1.5 * t3;
    const after = -0.5 * t2 + 0.5 * t3;
    const dBefore = last * (-0.5 + 2 * t - 1.5 * t2);
    const dHere = last * (-5 * t + 4.5 * t2);
    const dNext = last * (0.5 + 4 * t - 4.5 * t2);
    const dAfter = last * (-t + 1.5 * t2);
    if (cell === 0) {
      this.#base[ink] = 0;
      set4(w, at, here + 3 * before, next - 3 * before, after + before, 0);
      set4(s, at, dHere + 3 * dBefore, dNext - 3 * dBefore, dAfter + dBefore, 0);
    } else if (cell === last - 1) {
      this.#base[ink] = cell - 2;
      set4(w, at, 0, before + after, here - 3 * after, next + 3 * after);
      set4(s, at, 0, dBefore + dAfter, dHere - 3 * dAfter, dNext + 3 * dAfter);
    } else {
      this.#base[ink] = cell - 1;
      set4(w, at, before, here, next, after);
      set4(s, at, dBefore, dHere, dNext, dAfter);
    }
  }
}

function set4(into: Float64Array, at: number, p: number, q: number, r: number, s: number): void {
  into[at] = p;
  into[at + 1] = q;
  into[at + 2] = r;
  into[at + 3] = s;
}

/** Works one more ink in: `count` groups of four rows of `wide` figures become rows with that ink's slope added. */
function contract(
  from: Float64Array,
  count: number,
  wide: number,
  w: Float64Array,
  s: Float64Array,
  ink: number,
  into: Float64Array
): void {
  const [w0, w1, w2, w3] = [w[ink]!, w[ink + 1]!, w[ink + 2]!, w[ink + 3]!];
  const [s0, s1, s2, s3] = [s[ink]!, s[ink + 1]!, s[ink + 2]!, s[ink + 3]!];
  for (let group = 0; group < count; group++) {
    const at = group * 4 * wide;
    const put = group * (wide + 3);
    for (let v = 0; v < wide; v++) {
      const p = at + v;
      into[put + v] = w0 * from[p]! + w1 * from[p + wide]! + w2 * from[p + 2 * wide]! + w3 * from[p + 3 * wide]!;
    }
    for (let v = 0; v < 3; v++) {
      const p = at + v;
      into[put + wide + v] = s0 * from[p]! + s1 * from[p + wide]! + s2 * from[p + 2 * wide]! + s3 * from[p + 3 * wide]!;
    }
  }
}
