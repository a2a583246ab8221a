import { apply, chain, type Matrix, type Point } from '../geometry/matrix';
import { add, factorOf, halfSolved, product, solved, type Envelope, type Term } from './envelope';

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
/** Where it lies, and how it is turned, is not known. */
const ANYWHERE_MM = 30_000;

/** What prints may be: made once for the marks that are expected. */
export interface Stiffness {
  middle: Point;
  half: number;
  size: number;
  rows: number[];
  /** What is known beforehand, as sums of squares: of each row shift x, y and lean x, y, and then what is of the whole. */
  known: Envelope;
  /** By mark what moves it: asked for again and again. */
  moved: Map<Point, Moved>;
}

/** What each unknown moves a place by, along x and along y. */
interface Moved {
  x: Term[];
  y: Term[];
}

/** Unknowns of a row; a row hangs together with the two before it. */
const OF_ROW = 4;
const ROWS_BACK = 2;

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
  const whole = OF_ROW * rows.length;
  const firsts = Array.from({ length: whole + AFFINE }, (_, i) =>
    i < whole ? Math.max(0, OF_ROW * (Math.floor(i / OF_ROW) - ROWS_BACK)) : 0
  );
  const known: Envelope = { firsts, lower: firsts.map((_, i) => new Float64Array(i + 1)) };
  const know = (terms: readonly Term[], sigma: number) => add(known, terms, 1 / sigma ** 2);
  // Of the whole: shift x, y; turn; stretch across and along; shear.
  know([[whole + 3, 1]], ACROSS * size);
  know([[whole + 4, 1]], ALONG * size);
  know([[whole + 5, 1]], SHEAR * size);
  for (let i = 0; i < 3; i++) know([[whole + i, 1]], ANYWHERE_MM);
  rows.forEach((y, i) => {
    const at = (row: number, which: number) => OF_ROW * row + which;
    for (let which = 0; which < OF_ROW; which++) know([[at(i, which), 1]], BENT_MM);
    const [before, after] = [rows[i - 1], rows[i + 1]];
    if (before === undefined) return;
    const turned = Math.max(LEAST_BENT_MM, BOW * (y - before) * half);
    for (const which of [2, 3]) know([[at(i, which), 1], [at(i - 1, which), -1]], turned); // prettier-ignore
    if (after === undefined) return;
    const t = (y - before) / (after - before);
    const beside = Math.max(LEAST_BENT_MM, (BOW / 2) * (y - before) * (after - y));
    for (const which of [0, 1]) know([[at(i - 1, which), t - 1], [at(i, which), 1], [at(i + 1, which), -t]], beside); // prettier-ignore
  });
  const shape = { middle: { x: (left + right) / 2, y: (top + bottom) / 2 }, half, size, rows };
  return { ...shape, known, moved: new Map(expected.map((mark) => [mark, movedAt(shape, mark)])) };
}

/** The row before a place, and how far on to the next it is, 0…1. Beyond the ends it is at the end. */
function between(rows: readonly number[], y: number): [row: number, on: number] {
  let row = 0;
  while (row < rows.length - 2 && rows[row + 1]! <= y) row++;
  const [from, to] = [rows[row]!, rows[row + 1]!];
  return [row, Math.min(1, Math.max(0, (y - from) / (to - from)))];
}

function movedAt({ middle, half, size, rows }: Omit<Stiffness, 'known' | 'moved'>, p: Point): Moved {
  const [u, v] = [(p.x - middle.x) / size, (p.y - middle.y) / size];
  const whole = OF_ROW * rows.length;
  const x: Term[] = [[whole, 1], [whole + 2, -v], [whole + 3, u], [whole + 5, v]]; // prettier-ignore
  const y: Term[] = [[whole + 1, 1], [whole + 2, u], [whole + 4, v]]; // prettier-ignore
  if (rows.length > 0) {
    const [row, on] = between(rows, p.y);
    const lean = (p.x - middle.x) / half;
    for (const [k, share] of [
      [row, 1 - on],
      [row + 1, on]
    ] as const) {
      const at = OF_ROW * k;
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
  const { middle, half, size, rows, known, moved } = stiffness;
  const scale = Math.hypot(guess[0], guess[1]);
  // The guess without its size, about the middle: what is fitted is what must be added to it.
  const [c, s] = [guess[0] / scale, guess[1] / scale];
  const centre = apply(guess, middle);
  const base: Matrix = [c, s, s, -c, centre.x - c * middle.x - s * middle.y, centre.y - s * middle.x + c * middle.y];
  const normal = { ...known, lower: known.lower.map((row) => row.slice()) };
  const terms = pairs.map(({ from }) => moved.get(from) ?? movedAt(stiffness, from));
  const misses = pairs.map(({ from, to }) => {
    const at = apply(base, from);
    const [dx, dy] = [to.x - at.x, to.y - at.y];
    // The base is its own inverse: a turn and a flip.
    return { x: c * dx + s * dy, y: s * dx - c * dy };
  });
  const weight = 1 / NOISE_MM ** 2;
  const right: Term[] = [];
  terms.forEach((of, k) => {
    for (const axis of ['x', 'y'] as const) {
      add(normal, of[axis], weight);
      for (const [i, a] of of[axis]) right.push([i, a * misses[k]![axis] * weight]);
    }
  });
  const factor = factorOf(normal);
  const halfway = halfSolved(factor, right);
  const found = solved(factor, halfway);
  const sum = (of: readonly Term[]) => of.reduce((all, [i, a]) => all + a * found[i]!, 0);
  const strain = misses.reduce((all, { x, y }) => all + (x * x + y * y) * weight, 0) - product(halfway, halfway);
  const apart: number[] = [];
  const pull: number[] = [];
  const unsure: number[] = [];
  terms.forEach((of, k) => {
    // Leave one out by its own share of its fit, a 2 × 2 block: (I − H)⁻¹ r, and its variance H(I − H)⁻¹.
    const [x, y] = [halfSolved(factor, of.x), halfSolved(factor, of.y)];
    const [xx, xy, yy] = [product(x, x) * weight, product(x, y) * weight, product(y, y) * weight];
    const [rx, ry] = [misses[k]!.x - sum(of.x), misses[k]!.y - sum(of.y)];
    const det = Math.max(1e-12, (1 - xx) * (1 - yy) - xy * xy);
    const [ex, ey] = [((1 - yy) * rx + xy * ry) / det, (xy * rx + (1 - xx) * ry) / det];
    apart.push(Math.hypot(ex, ey));
    pull.push(Math.hypot(ex - rx, ey - ry));
    unsure.push(NOISE_MM * Math.sqrt(Math.max(0, (1 - yy) / det - 1, (1 - xx) / det - 1)));
  });
  const toCutter = (x: number, y: number): Point => ({ x: c * x + s * y, y: s * x - c * y });
  const [tx, ty, turn, across, along, shear] = Array.from(found.slice(-AFFINE)).map((v, i) => (i < 2 ? v : v / size)) as [number, number, number, number, number, number]; // prettier-ignore
  const change: Matrix = [1 + across, turn, shear - turn, 1 + along, tx, ty];
  const about: Matrix = [1, 0, 0, 1, -middle.x, -middle.y];
  const back: Matrix = [1, 0, 0, 1, middle.x, middle.y];
  return {
    map: chain(chain(chain(about, change), back), base),
    middle: middle.x,
    half,
    rows: rows.map((y, i) => {
      const [px, py, qx, qy] = found.slice(OF_ROW * i, OF_ROW * (i + 1)) as unknown as [number, number, number, number];
      return { y, shift: toCutter(px, py), lean: toCutter(qx, qy) };
    }),
    apart,
    pull,
    unsure,
    strain,
    doubt: (at) => {
      const { x, y } = moved.get(at) ?? movedAt(stiffness, at);
      return Math.sqrt(Math.max(...[halfSolved(factor, x), halfSolved(factor, y)].map((z) => product(z, z))));
    }
  };
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
