import { solve } from '../geometry/solve';
import { apply, type Matrix, type Point } from '../geometry/matrix';

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

/** Least squares over the normal equations: x and y each an affine function. @throws RangeError below 3 pairs */
export function fitAffine(pairs: readonly { from: Point; to: Point }[]): Matrix {
  if (pairs.length < 3) throw new RangeError(`${pairs.length} marks are too few to fit; 3 are needed.`);
  // About the middle, so that the equations are well conditioned.
  const cx = pairs.reduce((sum, p) => sum + p.from.x, 0) / pairs.length;
  const cy = pairs.reduce((sum, p) => sum + p.from.y, 0) / pairs.length;
  const sums = [0, 0, 0, 0, 0, 0];
  const rightX = [0, 0, 0];
  const rightY = [0, 0, 0];
  for (const { from, to } of pairs) {
    const v = [from.x - cx, from.y - cy, 1];
    [v[0]! * v[0]!, v[0]! * v[1]!, v[0]!, v[1]! * v[1]!, v[1]!, 1].forEach((value, i) => (sums[i] = (sums[i] ?? 0) + value));
    v.forEach((value, i) => {
      rightX[i] = (rightX[i] ?? 0) + value * to.x;
      rightY[i] = (rightY[i] ?? 0) + value * to.y;
    });
  }
  const [xx, xy, x, yy, y, n] = sums as [number, number, number, number, number, number];
  const normal = () => [
    [xx, xy, x],
    [xy, yy, y],
    [x, y, n]
  ];
  const [a, c, e] = solve(normal(), rightX) as [number, number, number];
  const [b, d, f] = solve(normal(), rightY) as [number, number, number];
  return [a, b, c, d, e - a * cx - c * cy, f - b * cx - d * cy];
}

/** Marks match when they lie within this of where a first guess puts them, mm. */
const MATCH_MM = 4;

/**
 * Finds which seen mark is which expected one, and fits the affine map. The sheet may be shifted and turned a good deal,
 * and the camera may see discs that are not marks: pairs of equal distance give guesses, and the guess that explains the
 * most marks wins.
 *
 * @param expected in the run's coordinates, y down
 * @param seen in the cutter's coordinates, y up
 * @param limit the residual above which the fit is refused, mm
 * @throws RegistrationError with the figure and what to do
 */
export function register(expected: readonly Point[], seen: readonly Point[], limit: number): Registration {
  if (seen.length < Math.min(4, expected.length)) {
    throw new RegistrationError(
      `The camera sees ${seen.length} of ${expected.length} marks; at least 4 are needed. Check that the right print is loaded.`
    );
  }
  let best: { from: Point; to: Point }[] = [];
  let bestMiss = Infinity;
  const far = farthestPair(expected);
  const [p, q] = far;
  const distance = Math.hypot(q.x - p.x, q.y - p.y);
  for (const s of seen) {
    for (const t of seen) {
      const span = Math.hypot(t.x - s.x, t.y - s.y);
      if (s === t || Math.abs(span - distance) > 2 + distance * 0.003) continue;
      const guess = similarity(p, q, s, t);
      const pairs = expected.flatMap((mark) => {
        const at = apply(guess, mark);
        const near = nearest(at, seen);
        return near && near.distance <= MATCH_MM ? [{ from: mark, to: near.point, distance: near.distance }] : [];
      });
      const miss = pairs.reduce((sum, pair) => sum + pair.distance, 0);
      if (pairs.length > best.length || (pairs.length === best.length && miss < bestMiss)) {
        best = pairs;
        bestMiss = miss;
      }
    }
  }
  if (best.length < Math.min(4, expected.length)) {
    throw new RegistrationError(
      `Only ${best.length} of ${expected.length} marks are where this print has them. Check that the right print is loaded.`
    );
  }
  const map = fitAffine(best);
  const matched = best.map(({ from, to }) => {
    const at = apply(map, from);
    return { expected: from, seen: to, miss: Math.hypot(at.x - to.x, at.y - to.y) };
  });
  const worst = Math.max(...matched.map((m) => m.miss));
  const rms = Math.sqrt(matched.reduce((sum, m) => sum + m.miss ** 2, 0) / matched.length);
  if (worst > limit) {
    throw new RegistrationError(
      `A mark is ${worst.toFixed(2)} mm from where the others put it; ${limit} mm is the limit. Lay the sheet flat, clean the marks and look again.`
    );
  }
  return { map, worst, rms, matched };
}

/** Shift, turn and the flip of y that carries p to s and q to t. */
function similarity(p: Point, q: Point, s: Point, t: Point): Matrix {
  const fx = q.x - p.x;
  const fy = -(q.y - p.y);
  const tx = t.x - s.x;
  const ty = t.y - s.y;
  const span = fx * fx + fy * fy;
  const cos = (fx * tx + fy * ty) / span;
  const sin = (fx * ty - fy * tx) / span;
  // x' = cos·x + sin·y(down) …: with y flipped first, (x, −y) is turned.
  return [cos, sin, sin, -cos, s.x - cos * p.x - sin * p.y, s.y - sin * p.x + cos * p.y];
}

function nearest(p: Point, points: readonly Point[]): { point: Point; distance: number } | undefined {
  let found: { point: Point; distance: number } | undefined;
  for (const point of points) {
    const distance = Math.hypot(point.x - p.x, point.y - p.y);
    if (!found || distance < found.distance) found = { point, distance };
  }
  return found;
}

function farthestPair(points: readonly Point[]): [Point, Point] {
  let pair: [Point, Point] = [points[0] ?? { x: 0, y: 0 }, points[1] ?? { x: 0, y: 0 }];
  let span = -1;
  points.forEach((p, i) => {
    for (const q of points.slice(i + 1)) {
      const d = Math.hypot(q.x - p.x, q.y - p.y);
      if (d > span) {
        span = d;
        pair = [p, q];
      }
    }
  });
  return pair;
}
