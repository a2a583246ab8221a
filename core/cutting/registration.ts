import { apply, type Matrix, type Point } from '../geometry/matrix';
import { fitAffine } from './affine';

/**
 * Which of the discs that the camera sees are the marks of a print, and how the print lies: by consensus over all pairs
 * (Fischler & Bolles 1981, here exhaustive). What could lie in two ways is refused.
 */

export interface Registration {
  /** Run coordinates → the cutter's. */
  map: Matrix;
  /** The farthest and the root-mean-square distance of a mark from where the fit says it is, mm. */
  worst: number;
  rms: number;
  matched: { expected: Point; seen: Point; miss: number }[];
}

export class RegistrationError extends Error {
  override name = 'RegistrationError';
}

interface Pair {
  from: Point;
  to: Point;
}

/** A way in which the print may lie. */
interface Answer {
  map: Matrix;
  pairs: Pair[];
}

/** Marks match when they lie within this of where a first guess puts them, and of where the fit to all does, mm. */
const GUESS_MM = 4;
const FIT_MM = 1.5;
/** A print is stretched or shrunk by less than this, and the camera is off by so much, mm. */
const STRETCH = 0.006;
const CAMERA_MM = 1;
/** Of the print's marks at least this share is seen, and four: of three, one that is dirty would be believed. */
const LEAST_SHARE = 0.4;
const LEAST_MARKS = 4;
/** So many fit any affine map. */
const AFFINE_MARKS = 3;
/** Marks that lie nearer to one line than this are in a line, mm. */
const LINE_MM = 8;
/** Two ways of lying that put a print's corners farther apart than this are two, mm. */
const APART_MM = 5;
/** Pairs of marks that are tried as the first two: the longest tell the direction best. */
const MOST_PAIRS = 80;
/** Where much is seen that is no mark, fewer are tried: the work grows with the square of it. */
const MOST_TRIES = 1e6;
const MOST_SEEN = 1000;
/** A mark that counts for nearly all of its own place in the fit is confirmed by no other. */
const OWN_WORD = 0.9;
/** Of the limit, where marks are not confirmed by others: what is stretched looks like dirt then. */
const STIFF_SHARE = 0.4;
/** Errors of marks may tell so much more at another mark’s place: three corners of four come to 3. */
const FAR_WORD = 4;

/**
 * @param expected in the run's coordinates, y down
 * @param seen in the cutter's coordinates, y up
 * @param limit the residual above which the fit is refused, mm
 * @throws RegistrationError with the figure and what to do
 */
export function register(expected: readonly Point[], seen: readonly Point[], limit: number): Registration {
  if (seen.length < LEAST_MARKS)
    throw new RegistrationError(
      `The camera sees ${seen.length} of ${expected.length} marks; at least ${LEAST_MARKS} are needed. Check that the right print is loaded, and that its marks are clean.`
    );
  if (seen.length > MOST_SEEN)
    throw new RegistrationError(
      `The camera sees ${seen.length} things that could be marks; ${MOST_SEEN} are the most that can be told apart. Check that the right print is loaded.`
    );
  const answers = answersOf(expected, seen);
  const most = answers.reduce((count, { pairs }) => Math.max(count, pairs.length), 0);
  const best = answers.filter(({ pairs }) => pairs.length === most);
  const needed = Math.max(LEAST_MARKS, Math.ceil(expected.length * LEAST_SHARE));
  const [first] = best;
  if (!first || most < needed)
    throw new RegistrationError(
      `Only ${most} of ${expected.length} marks are where this print has them. Check that the right print is loaded.`
    );
  if (best.length > 1)
    throw new RegistrationError(
      `The ${most} marks that are seen fit this print in ${best.length} ways, and one of them alone is right. Clean the marks, so that those are seen that tell its direction.`
    );
  const own = leverageOf(first.pairs);
  if (expected.some((mark) => !(own(mark) < FAR_WORD)))
    throw new RegistrationError(
      `The ${most} marks that are seen lie in a line, or all at one side: nothing tells how the print lies beside it. Clean the other marks.`
    );
  // Where a mark alone says how the print is stretched there, dirt on it would too: then shapes are held to be kept.
  const confirmed = areConfirmed(first.pairs, limit);
  const map = confirmed ? fitAffine(first.pairs) : fitSimilar(first.pairs);
  const allowed = confirmed ? limit : limit * STIFF_SHARE;
  const matched = first.pairs.map(({ from, to }) => ({ expected: from, seen: to, miss: distance(apply(map, from), to) }));
  const worst = Math.max(...matched.map(({ miss }) => miss));
  if (worst > allowed)
    throw new RegistrationError(
      `A mark is ${worst.toFixed(2)} mm from where the others put it; ${allowed.toFixed(2)} mm is the limit. Lay the sheet flat, clean the marks and look again.`
    );
  return { map, worst, rms: Math.sqrt(matched.reduce((sum, { miss }) => sum + miss ** 2, 0) / matched.length), matched };
}

const distance = (p: Point, q: Point): number => Math.hypot(p.x - q.x, p.y - q.y);

/** All ways in which the print may lie that explain the most marks found so far, each once. */
function answersOf(expected: readonly Point[], seen: readonly Point[]): Answer[] {
  const tries = Math.max(1, Math.min(MOST_PAIRS, Math.floor(MOST_TRIES / seen.length ** 2)));
  const pairs = longestPairs(expected).slice(0, tries);
  const corners = pairs[0] ? [pairs[0].from, pairs[0].to] : [];
  let answers: Answer[] = [];
  let most = 0;
  for (const { from: p, to: q } of pairs) {
    const long = distance(p, q);
    for (const s of seen)
      for (const t of seen) {
        if (s === t || Math.abs(distance(s, t) - long) > CAMERA_MM + long * STRETCH) continue;
        const answer = refined(
          expected,
          seen,
          fitSimilar([
            { from: p, to: s },
            { from: q, to: t }
          ]),
          most
        );
        if (!answer || answer.pairs.length < most) continue;
        if (answer.pairs.length > most) answers = [];
        most = answer.pairs.length;
        const isKnown = answers.some((one) =>
          corners.every((corner) => distance(apply(one.map, corner), apply(answer.map, corner)) < APART_MM)
        );
        if (!isKnown) answers.push(answer);
      }
    // Nothing explains more than all.
    if (most === expected.length) break;
  }
  return answers;
}

/**
 * A first guess, fitted to all marks that it explains until those are the same.
 *
 * @param most nothing is made of one that explains fewer
 */
function refined(expected: readonly Point[], seen: readonly Point[], guess: Matrix, most: number): Answer | undefined {
  let map = guess;
  let pairs = matches(expected, seen, map, GUESS_MM);
  if (pairs.length < most) return undefined;
  for (let round = 0; round < 3 && pairs.length >= AFFINE_MARKS; round++) {
    map = pairs.length > AFFINE_MARKS && !isInLine(pairs.map(({ from }) => from)) ? fitAffine(pairs) : fitSimilar(pairs);
    const next = matches(expected, seen, map, FIT_MM);
    const isSame = next.length === pairs.length && next.every(({ to }, i) => to === pairs[i]!.to);
    pairs = next;
    if (isSame) break;
  }
  return { map, pairs };
}

/**
 * Whether each mark lies where the others put it: its own residual over what it does not count for itself in the fit (its
 * leverage; Cook 1977).
 */
function areConfirmed(pairs: readonly Pair[], limit: number): boolean {
  if (pairs.length <= AFFINE_MARKS) return false;
  const map = fitAffine(pairs);
  const own = leverageOf(pairs);
  return pairs.every(({ from, to }) => own(from) < OWN_WORD && distance(apply(map, from), to) / (1 - own(from)) <= 2 * limit);
}

/**
 * How much the errors of marks tell at a place, where an affine map is fitted to them: for one of them what it counts for its
 * own place, 0…1; beside them it grows with the distance.
 */
function leverageOf(pairs: readonly Pair[]): (at: Point) => number {
  const n = pairs.length;
  const cx = pairs.reduce((sum, { from }) => sum + from.x, 0) / n;
  const cy = pairs.reduce((sum, { from }) => sum + from.y, 0) / n;
  let [xx, xy, yy] = [0, 0, 0];
  for (const { from } of pairs) {
    xx += (from.x - cx) ** 2;
    xy += (from.x - cx) * (from.y - cy);
    yy += (from.y - cy) ** 2;
  }
  const area = xx * yy - xy * xy;
  return (at) => {
    const [x, y] = [at.x - cx, at.y - cy];
    return 1 / n + (yy * x * x - 2 * xy * x * y + xx * y * y) / area;
  };
}

/** Marks and the discs that are nearest to where they should be; each disc is one mark's. */
function matches(expected: readonly Point[], seen: readonly Point[], map: Matrix, within: number): Pair[] {
  const taken = new Map<Point, Pair & { far: number }>();
  for (const from of expected) {
    const at = apply(map, from);
    let to: Point | undefined;
    let far = within;
    for (const disc of seen) {
      const d = distance(at, disc);
      if (d <= far) [to, far] = [disc, d];
    }
    if (to && far < (taken.get(to)?.far ?? Infinity)) taken.set(to, { from, to, far });
  }
  return [...taken.values()];
}

/** Shift, turn, size and the flip of y that fit best: least squares in the plane of complex numbers. */
function fitSimilar(pairs: readonly Pair[]): Matrix {
  const n = pairs.length;
  const sum = (of: (pair: Pair) => number) => pairs.reduce((all, pair) => all + of(pair), 0);
  const [wx, wy] = [sum(({ from }) => from.x) / n, sum(({ from }) => -from.y) / n];
  const [sx, sy] = [sum(({ to }) => to.x) / n, sum(({ to }) => to.y) / n];
  let [re, im, size] = [0, 0, 0];
  for (const { from, to } of pairs) {
    const [u, v] = [from.x - wx, -from.y - wy];
    const [x, y] = [to.x - sx, to.y - sy];
    re += u * x + v * y;
    im += u * y - v * x;
    size += u * u + v * v;
  }
  const [c, d] = [re / size, im / size];
  return [c, d, d, -c, sx - c * wx + d * wy, sy - d * wx - c * wy];
}

function isInLine(points: readonly Point[]): boolean {
  const [longest] = longestPairs(points);
  if (!longest) return true;
  const { from, to } = longest;
  const long = distance(from, to);
  return points.every((p) => Math.abs((to.x - from.x) * (p.y - from.y) - (to.y - from.y) * (p.x - from.x)) / long < LINE_MM);
}

/** Pairs of points, the longest first. */
function longestPairs(points: readonly Point[]): Pair[] {
  return points
    .flatMap((from, i) => points.slice(i + 1).map((to) => ({ from, to })))
    .sort((p, q) => distance(q.from, q.to) - distance(p.from, p.to))
    .slice(0, MOST_PAIRS);
}
