import type { ForwardGrid } from './forward-grid';
import type { Triple } from './lab';

/** Ink amounts C, M, Y, K in 0…1, of what linearised channels print at most. */
export type Inks = [number, number, number, number];

export interface InkLimits {
  /** Most ink in all, in shares: 2.6 is 260 %. */
  total: number;
  /** Most ink of two colours together where less is wanted: M + Y, C + Y, C + M. */
  red?: number | undefined;
  green?: number | undefined;
  blue?: number | undefined;
  /**
   * The ink that each channel's values become: four curves of even steps from 0 to 1, rising. Limits hold for ink, not
   * for values. Without them a value is its ink.
   */
  amounts?: readonly ArrayLike<number>[] | undefined;
}

/** Which inks each limit adds up: bits 1 C, 2 M, 4 Y, 8 K. */
function constraintsOf(limits: InkLimits): { mask: number; most: number }[] {
  const of = (mask: number, most: number | undefined) => (most === undefined ? [] : [{ mask, most }]);
  return [...of(15, limits.total), ...of(6, limits.red), ...of(5, limits.green), ...of(3, limits.blue)];
}

/** How hard a limit pushes back: ΔE a whole ink above it. */
const LIMIT_WEIGHT = 600;
const MOST_ROUNDS = 40;

/**
 * Finds inks for colours by damped least squares (Levenberg 1944, Marquardt 1963) in the box of the inks, towards the
 * colour, the wanted black and the limits at once. Out of gamut it clips by CIEDE2000's scales with the hue held
 * harder than lightness and chroma. What it gives depends smoothly on the colour when the start does.
 */
export class Separator {
  readonly grid: ForwardGrid;
  readonly limits: InkLimits;
  readonly #constraints: { mask: number; most: number }[];
  readonly #at = new Float64Array(15);
  /** Residuals: three of colour, one of black, four of limits; and their slopes along C, M, Y, K. */
  readonly #rows: number;
  #here: Float64Array;
  #slopes: Float64Array;
  #there: Float64Array;
  #slopesThere: Float64Array;
  readonly #metric = new Float64Array(9);
  readonly #try = new Float64Array(4);
  readonly #normal = new Float64Array(16);
  readonly #gradient = new Float64Array(4);
  readonly #step = new Float64Array(4);
  readonly #free = new Int32Array(4);

  constructor(grid: ForwardGrid, limits: InkLimits) {
    this.grid = grid;
    this.limits = limits;
    this.#constraints = constraintsOf(limits);
    this.#rows = 4 + this.#constraints.length;
    this.#here = new Float64Array(this.#rows);
    this.#there = new Float64Array(this.#rows);
    this.#slopes = new Float64Array(this.#rows * 4);
    this.#slopesThere = new Float64Array(this.#rows * 4);
  }

  /**
   * @param inks where to begin; the answer is put there
   * @param black the wanted amount of black, and how much it counts: 1 makes a whole ink as bad as ΔE 1
   * @returns how far the colour is missed, by the weighted metric
   */
  solve(lab: Readonly<Triple>, black: number, blackWeight: number, inks: Float64Array): number {
    this.#metricFor(lab);
    const tried = this.#try;
    let cost = this.#residuals(lab, black, blackWeight, inks, this.#here, this.#slopes);
    let damping = 0.01;
    for (let round = 0; round < MOST_ROUNDS; round++) {
      this.#normalEquations();
      const free = this.#freeInks(inks);
      if (free === 0) break;
      let improved = false;
      for (let tries = 0; tries < 8 && !improved; tries++) {
        this.#solveStep(free, damping);
        let moved = 0;
        tried.set(inks);
        for (let i = 0; i < free; i++) {
          const ink = this.#free[i]!;
          tried[ink] = Math.min(1, Math.max(0, inks[ink]! + this.#step[i]!));
          moved = Math.max(moved, Math.abs(tried[ink] - inks[ink]!));
        }
        const next = this.#residuals(lab, black, blackWeight, tried, this.#there, this.#slopesThere);
        if (next < cost) {
          improved = true;
          const gained = cost - next;
          inks.set(tried);
          cost = next;
          [this.#here, this.#there] = [this.#there, this.#here];
          [this.#slopes, this.#slopesThere] = [this.#slopesThere, this.#slopes];
          damping = Math.max(1e-9, damping / 8);
          if (gained < 1e-5 * cost + 1e-6 || moved < 1e-6) round = MOST_ROUNDS;
        } else damping = Math.max(1e-6, damping * 8);
      }
      if (!improved) break;
    }
    if (this.#keepLimits(inks)) this.#residuals(lab, black, blackWeight, inks, this.#here, this.#slopes);
    return Math.hypot(this.#here[0]!, this.#here[1]!, this.#here[2]!);
  }

  /** CIEDE2000's scales (without its turn for blues), along lightness, chroma and hue of the wanted colour. */
  #metricFor(lab: Readonly<Triple>): void {
    const chroma = Math.hypot(lab[1], lab[2]);
    const ua = chroma > 1e-6 ? lab[1] / chroma : 1;
    const ub = chroma > 1e-6 ? lab[2] / chroma : 0;
    const far = Math.min(1, chroma / 20);
    // Near grey the hue counts more than the lightness: a black that cannot be reached stays a black.
    const alongScale = (2.5 - 1.5 * far) / (1 + 0.027 * chroma);
    const acrossScale = (2.5 - 0.9 * far) / (1 + 0.009 * chroma);
    const m = this.#metric;
    m.fill(0);
    m[0] = 1;
    m[4] = alongScale * ua;
    m[5] = alongScale * ub;
    m[7] = -acrossScale * ub;
    m[8] = acrossScale * ua;
  }

  #residuals(
    lab: Readonly<Triple>,
    black: number,
    blackWeight: number,
    inks: Float64Array,
    out: Float64Array,
    s: Float64Array
  ): number {
    const at = this.#at;
    this.grid.slopes(inks[0]!, inks[1]!, inks[2]!, inks[3]!, at);
    const m = this.#metric;
    const d0 = at[0]! - lab[0];
    const d1 = at[1]! - lab[1];
    const d2 = at[2]! - lab[2];
    for (let r = 0; r < 3; r++) {
      out[r] = m[r * 3]! * d0 + m[r * 3 + 1]! * d1 + m[r * 3 + 2]! * d2;
      for (let i = 0; i < 4; i++)
        s[r * 4 + i] = m[r * 3]! * at[3 + i * 3]! + m[r * 3 + 1]! * at[4 + i * 3]! + m[r * 3 + 2]! * at[5 + i * 3]!;
    }
    out[3] = blackWeight * (inks[3]! - black);
    s.fill(0, 12);
    s[15] = blackWeight;
    for (let n = 0; n < this.#constraints.length; n++) {
      const { mask, most } = this.#constraints[n]!;
      const over = this.#ink(inks, mask) - most;
      out[4 + n] = over > 0 ? LIMIT_WEIGHT * over : 0;
      if (over > 0)
        for (let i = 0; i < 4; i++) if ((mask >> i) & 1) s[(4 + n) * 4 + i] = LIMIT_WEIGHT * this.#inkSlope(i, inks[i]!);
    }
    let cost = 0;
    for (let r = 0; r < this.#rows; r++) cost += out[r]! * out[r]!;
    return cost;
  }

  #normalEquations(): void {
    const { rows, s, r } = { rows: this.#rows, s: this.#slopes, r: this.#here };
    const a = this.#normal;
    const g = this.#gradient;
    for (let i = 0; i < 4; i++) {
      for (let j = 0; j <= i; j++) {
        let sum = 0;
        for (let n = 0; n < rows; n++) sum += s[n * 4 + i]! * s[n * 4 + j]!;
        a[i * 4 + j] = sum;
        a[j * 4 + i] = sum;
      }
      let sum = 0;
      for (let n = 0; n < rows; n++) sum += s[n * 4 + i]! * r[n]!;
      g[i] = sum;
    }
  }

  /** Inks that stand at the edge of their box and are pushed outwards stay out of the step. @returns how many are free */
  #freeInks(inks: Float64Array): number {
    let count = 0;
    for (let i = 0; i < 4; i++) {
      const held = (inks[i]! <= 0 && this.#gradient[i]! > 0) || (inks[i]! >= 1 && this.#gradient[i]! < 0);
      if (!held) this.#free[count++] = i;
    }
    return count;
  }

  /** Solves the damped normal equations of the free inks (Gauss; the matrix is small, symmetric and positive). */
  #solveStep(count: number, damping: number): void {
    const m = SMALL;
    for (let i = 0; i < count; i++) {
      const ri = this.#free[i]! * 4;
      for (let j = 0; j < count; j++) m[i * 5 + j] = this.#normal[ri + this.#free[j]!]!;
      m[i * 5 + i] = m[i * 5 + i]! * (1 + damping) + 1e-6;
      m[i * 5 + 4] = -this.#gradient[this.#free[i]!]!;
    }
    for (let col = 0; col < count; col++) {
      const lead = m[col * 5 + col]!;
      for (let row = col + 1; row < count; row++) {
        const factor = m[row * 5 + col]! / lead;
        for (let k = col; k < count; k++) m[row * 5 + k] = m[row * 5 + k]! - factor * m[col * 5 + k]!;
        m[row * 5 + 4] = m[row * 5 + 4]! - factor * m[col * 5 + 4]!;
      }
    }
    for (let row = count - 1; row >= 0; row--) {
      let sum = m[row * 5 + 4]!;
      for (let k = row + 1; k < count; k++) sum -= m[row * 5 + k]! * this.#step[k]!;
      this.#step[row] = sum / m[row * 5 + row]!;
    }
  }

  /** Whether inks are within all limits. */
  isWithin(inks: ArrayLike<number>): boolean {
    return this.#constraints.every(({ mask, most }) => this.#ink(inks, mask) <= most + 1e-9);
  }

  /** Ink of the channels in `mask`. */
  #ink(inks: ArrayLike<number>, mask: number): number {
    let sum = 0;
    for (let i = 0; i < 4; i++) if ((mask >> i) & 1) sum += this.amount(i, inks[i]!);
    return sum;
  }

  /** The ink that a value of a channel becomes. */
  amount(channel: number, value: number): number {
    const curve = this.limits.amounts?.[channel];
    if (!curve) return value;
    const x = value * (curve.length - 1);
    const cell = Math.min(curve.length - 2, Math.floor(x));
    return curve[cell]! + (x - cell) * (curve[cell + 1]! - curve[cell]!);
  }

  #inkSlope(channel: number, value: number): number {
    const curve = this.limits.amounts?.[channel];
    if (!curve) return 1;
    const last = curve.length - 1;
    const cell = Math.min(last - 1, Math.floor(value * last));
    return (curve[cell + 1]! - curve[cell]!) * last;
  }

  /** Brings the last thousandths above a limit down, by taking from the colours. @returns whether there were any */
  #keepLimits(inks: Float64Array): boolean {
    let changed = false;
    for (const { mask, most } of this.#constraints) {
      if (this.#ink(inks, mask) <= most) continue;
      changed = true;
      // The largest share of the colours that fits; with black alone too much, black gives way too.
      const before = Float64Array.from(inks);
      const colours = mask & 7;
      const takes = (scaled: number, keep: number) => {
        for (let i = 0; i < 4; i++) if ((scaled >> i) & 1) inks[i] = before[i]! * keep;
        return this.#ink(inks, mask) <= most;
      };
      const scaled = takes(colours, 0) ? colours : mask;
      let low = 0;
      let high = 1;
      for (let round = 0; round < 30; round++) {
        const middle = (low + high) / 2;
        if (takes(scaled, middle)) low = middle;
        else high = middle;
      }
      takes(scaled, low);
    }
    return changed;
  }
}

const SMALL = new Float64Array(20);
