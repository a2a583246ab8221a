import { Matrix as Dense } from 'ml-matrix';
import { apply, chain, type Matrix, type Point } from '../geometry/matrix';

/**
 * How a print lies in the cutter, fitted to its marks: shifted and turned at will; stretched, sheared and bowed as far as
 * prints are. What prints are is known beforehand (Tikhonov 1963), so that each mark is told by the others.
 */

/** A mark as it is expected in the run and where it was seen. */
export interface Pair {
  from: Point;
  to: Point;
}

/** What a long print adds at a row of marks, in the cutter's mm: to its middle, and to a place half its width to the right. */
interface Row {
  y: number;
  shift: Point;
  lean: Point;
}

/** Run coordinates → the cutter's: the map of the whole, and from row to row evenly what bow and stretch add. */
export interface Lie {
  map: Matrix;
  middle: number;
  half: number;
  rows: Row[];
}

export interface Fit extends Lie {
  /** By pair: where the fit to all the others puts the mark, from where it was seen, mm. */
  apart: number[];
  /** By pair: how far the fit lies from where it would lie without it, at its place, mm. */
  pull: number[];
  /** By pair: how far wrong the others may be there, mm (one standard deviation). */
  unsure: number[];
  /** The same of any place, by all pairs. */
  doubt: (at: Point) => number;
  /** How badly the pairs and what prints are agree: the sum of squares, in standard deviations. */
  strain: number;
}

/** The camera's error and that of the print's drops, mm in one direction. */
export const NOISE_MM = 0.04;
/** How far prints are stretched along and across, and sheared: shares of a length. */
const ALONG = 0.002;
const ACROSS = 0.0007;
const SHEAR = 0.0002;
/** How prints bow: 1/mm, twice as much as one that is 1 mm off over 8 m. Rows lie at least so far off all the same, mm. */
const BOW = 8 / 8000 ** 2;
const LEAST_BENT_MM = 0.005;
/** How far all that may come to, mm. */
const BENT_MM = 2;
/** Prints of fewer rows are too short to bow. */
const LEAST_ROWS = 4;
const MOST_ROWS = 60;
const AFFINE = 6;

/** What prints may be: made once for the marks that are expected. */
export interface Stiffness {
  middle: Point;
  half: number;
  size: number;
  rows: number[];
  /** What is known beforehand, as sums of squares. */
  known: Dense;
}

/** @param expected marks of the run */
export function stiffnessOf(expected: readonly Point[]): Stiffness {
  const xs = expected.map(({ x }) => x);
  const ys = [...new Set(expected.map(({ y }) => y))].sort((a, b) => a - b);
  const [left, right] = [Math.min(...xs), Math.max(...xs)];
  const [top, bottom] = [ys[0] ?? 0, ys.at(-1) ?? 0];
  const half = Math.max(1, (right - left) / 2);
  const every = Math.ceil(ys.length / MOST_ROWS);
  const rows = ys.length < LEAST_ROWS ? [] : ys.filter((_, i) => i % every === 0 || i === ys.length - 1);
  const size = Math.max(1, Math.hypot(right - left, bottom - top) / 2);
  const known = Dense.zeros(AFFINE + 4 * rows.length, AFFINE + 4 * rows.length);
  const know = (terms: readonly [number, number][], sigma: number) => {
    for (const [i, a] of terms) for (const [j, b] of terms) known.set(i, j, known.get(i, j) + (a * b) / sigma ** 2);
  };
  // Unknowns: shift x, y; turn; stretch across and along; shear; then by row shift x, y and lean x, y.
  know([[3, 1]], ACROSS * size);
  know([[4, 1]], ALONG * size);
  know([[5, 1]], SHEAR * size);
  rows.forEach((y, i) => {
    const at = (row: number, which: number) => AFFINE + 4 * row + which;
    for (let which = 0; which < 4; which++) know([[at(i, which), 1]], BENT_MM);
    const [before, after] = [rows[i - 1], rows[i + 1]];
    if (before === undefined) return;
    const turned = Math.max(LEAST_BENT_MM, BOW * (y - before) * half);
    for (const which of [2, 3]) know([[at(i, which), 1], [at(i - 1, which), -1]], turned); // prettier-ignore
    if (after === undefined) return;
    const t = (y - before) / (after - before);
    const beside = Math.max(LEAST_BENT_MM, (BOW / 2) * (y - before) * (after - y));
    for (const which of [0, 1]) know([[at(i - 1, which), t - 1], [at(i, which), 1], [at(i + 1, which), -t]], beside); // prettier-ignore
  });
  return { middle: { x: (left + right) / 2, y: (top + bottom) / 2 }, half, size, rows, known };
}

/** The row before a place, and how far on to the next it is, 0…1. Beyond the ends it is at the end. */
function between(rows: readonly number[], y: number): [row: number, on: number] {
  let row = 0;
  while (row < rows.length - 2 && rows[row + 1]! <= y) row++;
  const [from, to] = [rows[row]!, rows[row + 1]!];
  return [row, Math.min(1, Math.max(0, (y - from) / (to - from)))];
}

/** What each unknown moves a place by, along x and along y. */
function termsAt({ middle, half, size, rows }: Stiffness, p: Point): { x: [number, number][]; y: [number, number][] } {
  const [u, v] = [(p.x - middle.x) / size, (p.y - middle.y) / size];
  const x: [number, number][] = [[0, 1], [2, -v], [3, u], [5, v]]; // prettier-ignore
  const y: [number, number][] = [[1, 1], [2, u], [4, v]]; // prettier-ignore
  if (rows.length > 0) {
    const [row, on] = between(rows, p.y);
    const lean = (p.x - middle.x) / half;
    for (const [k, share] of [
      [row, 1 - on],
      [row + 1, on]
    ] as const) {
      // prettier-ignore
      const at = AFFINE + 4 * k;
      x.push([at, share], [at + 2, share * lean]);
      y.push([at + 1, share], [at + 3, share * lean]);
    }
  }
  return { x, y };
}

/**
 * Fits a print to its marks, by least squares with what is known of prints.
 *
 * @param guess about how it lies: turned and flipped as it is, to some millimetres
 */
export function fitLie(pairs: readonly Pair[], stiffness: Stiffness, guess: Matrix): Fit {
  const { middle, half, size, rows, known } = stiffness;
  const n = known.rows;
  const scale = Math.hypot(guess[0], guess[1]);
  // The guess without its size, about the middle: what is fitted is what must be added to it.
  const [c, s] = [guess[0] / scale, guess[1] / scale];
  const centre = apply(guess, middle);
  const base: Matrix = [c, s, s, -c, centre.x - c * middle.x - s * middle.y, centre.y - s * middle.x + c * middle.y];
  const normal = known.clone();
  const right = Dense.zeros(n, 1);
  const terms = pairs.map(({ from }) => termsAt(stiffness, from));
  const misses = pairs.map(({ from, to }) => {
    const at = apply(base, from);
    const [dx, dy] = [to.x - at.x, to.y - at.y];
    // The base is its own inverse: a turn and a flip.
    return { x: c * dx + s * dy, y: s * dx - c * dy };
  });
  const weight = 1 / NOISE_MM ** 2;
  terms.forEach((of, k) => {
    for (const axis of ['x', 'y'] as const)
      for (const [i, a] of of[axis]) {
        right.set(i, 0, right.get(i, 0) + a * misses[k]![axis] * weight);
        for (const [j, b] of of[axis]) normal.set(i, j, normal.get(i, j) + a * b * weight);
      }
  });
  // Shift and turn alone are not known beforehand; two marks tell them.
  for (let i = 0; i < 3; i++) normal.set(i, i, normal.get(i, i) + 1e-9);
  const inverse = inverseOf(normal);
  const found = inverse.map((row) => row.reduce((sum, v, i) => sum + v * right.get(i, 0), 0));
  const spread = (a: [number, number][], b: [number, number][]) => {
    let sum = 0;
    for (const [i, p] of a) for (const [j, q] of b) sum += p * q * inverse[i]![j]!;
    return sum;
  };
  const sum = (of: [number, number][]) => of.reduce((all, [i, a]) => all + a * found[i]!, 0);
  const strain = misses.reduce((all, { x, y }) => all + (x * x + y * y) * weight, 0) - right.to1DArray().reduce((all, b, i) => all + b * found[i]!, 0); // prettier-ignore
  const apart: number[] = [];
  const pull: number[] = [];
  const unsure: number[] = [];
  terms.forEach((of, k) => {
    // Leave one out by its own share of its fit, a 2 × 2 block: (I − H)⁻¹ r, and its variance H(I − H)⁻¹.
    const [xx, xy, yy] = [spread(of.x, of.x) * weight, spread(of.x, of.y) * weight, spread(of.y, of.y) * weight];
    const [rx, ry] = [misses[k]!.x - sum(of.x), misses[k]!.y - sum(of.y)];
    const det = Math.max(1e-12, (1 - xx) * (1 - yy) - xy * xy);
    const [ex, ey] = [((1 - yy) * rx + xy * ry) / det, (xy * rx + (1 - xx) * ry) / det];
    apart.push(Math.hypot(ex, ey));
    pull.push(Math.hypot(ex - rx, ey - ry));
    unsure.push(NOISE_MM * Math.sqrt(Math.max(0, (1 - yy) / det - 1, (1 - xx) / det - 1)));
  });
  const toCutter = (x: number, y: number): Point => ({ x: c * x + s * y, y: s * x - c * y });
  const [tx, ty, turn, across, along, shear] = found.slice(0, AFFINE).map((v, i) => (i < 2 ? v : v / size)) as [number, number, number, number, number, number]; // prettier-ignore
  const add: Matrix = [1 + across, turn, shear - turn, 1 + along, tx, ty];
  const about: Matrix = [1, 0, 0, 1, -middle.x, -middle.y];
  const back: Matrix = [1, 0, 0, 1, middle.x, middle.y];
  return {
    map: chain(chain(chain(about, add), back), base),
    middle: middle.x,
    half,
    rows: rows.map((y, i) => {
      const [px, py, qx, qy] = found.slice(AFFINE + 4 * i, AFFINE + 4 * i + 4) as [number, number, number, number];
      return { y, shift: toCutter(px, py), lean: toCutter(qx, qy) };
    }),
    apart,
    pull,
    unsure,
    strain,
    doubt: (at) => {
      const of = termsAt(stiffness, at);
      return Math.sqrt(Math.max(spread(of.x, of.x), spread(of.y, of.y)));
    }
  };
}

/**
 * The inverse of a symmetric positive definite matrix, by Cholesky's factors in plain rows: a registration makes hundreds, and the
 * library's made it two and a half times as long.
 */
function inverseOf(matrix: Dense): number[][] {
  const n = matrix.rows;
  const lower = matrix.to2DArray();
  for (let i = 0; i < n; i++) {
    const a = lower[i]!;
    for (let j = 0; j <= i; j++) {
      const b = lower[j]!;
      let sum = a[j]!;
      for (let k = 0; k < j; k++) sum -= a[k]! * b[k]!;
      a[j] = i === j ? Math.sqrt(sum) : sum / b[j]!;
    }
  }
  // Rows of the factor's inverse, whose columns' products are the matrix's inverse.
  const back: number[][] = [];
  for (let i = 0; i < n; i++) {
    const row = new Array<number>(n).fill(0);
    row[i] = 1;
    for (let k = 0; k < i; k++) {
      const share = lower[i]![k]!;
      if (share === 0) continue;
      const before = back[k]!;
      for (let j = 0; j <= k; j++) row[j] = row[j]! - share * before[j]!;
    }
    for (let j = 0; j <= i; j++) row[j] = row[j]! / lower[i]![i]!;
    back.push(row);
  }
  const inverse = Array.from({ length: n }, () => new Array<number>(n).fill(0));
  back.forEach((row, last) => {
    for (let i = 0; i <= last; i++) {
      const share = row[i]!;
      if (share === 0) continue;
      const into = inverse[i]!;
      for (let j = 0; j <= last; j++) into[j] = into[j]! + share * row[j]!;
    }
  });
  return inverse;
}

/** A place of the run in the cutter. */
export function lieAt({ map, middle, half, rows }: Lie, p: Point): Point {
  const at = apply(map, p);
  if (rows.length < 2) return at;
  const [row, on] = between(rows.map(({ y }) => y), p.y); // prettier-ignore
  const [a, b] = [rows[row]!, rows[row + 1]!];
  const lean = (p.x - middle) / half;
  const mix = (axis: 'x' | 'y') =>
    a.shift[axis] * (1 - on) + b.shift[axis] * on + lean * (a.lean[axis] * (1 - on) + b.lean[axis] * on);
  return { x: at.x + mix('x'), y: at.y + mix('y') };
}
