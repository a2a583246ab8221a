import type { Point } from '../geometry/matrix';

export interface Cubic {
  c1: Point;
  c2: Point;
  to: Point;
}

/** Rounds of moving the points along the curve before it is split; more hardly help. */
const ROUNDS = 4;

/**
 * Cubic Béziers through a line of points, within `tolerance` of every one of them, joined smoothly.
 * Schneider, “An algorithm for automatically fitting digitized curves” (Graphics Gems, 1990), with tangents taken over a
 * stretch instead of one step, since traced points are uneven.
 *
 * @param reach the length over which a direction is taken, in the points' unit
 * @param startDirection,endDirection unit vectors into the line at its ends, where they are known
 */
export function fitCubics(
  points: readonly Point[],
  tolerance: number,
  reach: number,
  startDirection?: Point,
  endDirection?: Point
): Cubic[] {
  const n = points.length;
  if (n < 2) return [];
  const out: Cubic[] = [];
  const t1 = startDirection ?? direction(points, 0, n - 1, reach);
  const t2 = endDirection ?? direction(points, n - 1, 0, reach);
  fitRange(points, 0, n - 1, t1, t2, tolerance, reach, out, 0);
  return out;
}

function fitRange(
  points: readonly Point[],
  from: number,
  to: number,
  t1: Point,
  t2: Point,
  tolerance: number,
  reach: number,
  out: Cubic[],
  depth: number
): void {
  const first = points[from]!;
  const last = points[to]!;
  const span = distance(first, last);
  if (to - from < 2) {
    const third = span / 3;
    out.push({ c1: along(first, t1, third), c2: along(last, t2, third), to: last });
    return;
  }
  const u = chordLengths(points, from, to);
  let worst = { error: Infinity, at: from + 1 };
  for (let round = 0; round <= ROUNDS; round++) {
    const curve = leastSquares(points, from, to, u, t1, t2);
    const found = farthestFrom(points, from, to, u, curve);
    // A round that does not help any more ends the trying.
    if (round > 0 && found.error > worst.error * 0.98) break;
    worst = found;
    if (found.error <= tolerance) {
      out.push(curve);
      return;
    }
    if (found.error > tolerance * 6) break;
    reparameterise(points, from, u, curve);
  }
  if (depth > 40) {
    out.push(leastSquares(points, from, to, u, t1, t2));
    return;
  }
  const split = Math.min(to - 1, Math.max(from + 1, worst.at));
  // Over a long curve a long reach evens out roughness; over a tight one it would cut the corner.
  let length = 0;
  for (let i = from + 1; i <= to; i++) length += distance(points[i - 1]!, points[i]!);
  const near = Math.max(reach / 8, Math.min(reach, length / 10));
  const ahead = direction(points, split, to, near);
  const back = direction(points, split, from, near);
  const middle = unit({ x: ahead.x - back.x, y: ahead.y - back.y }) ?? ahead;
  fitRange(points, from, split, t1, { x: -middle.x, y: -middle.y }, tolerance, reach, out, depth + 1);
  fitRange(points, split, to, middle, t2, tolerance, reach, out, depth + 1);
}

const distance = (p: Point, q: Point) => Math.hypot(q.x - p.x, q.y - p.y);
const along = (p: Point, t: Point, d: number): Point => ({ x: p.x + t.x * d, y: p.y + t.y * d });

function unit(v: Point): Point | undefined {
  const length = Math.hypot(v.x, v.y);
  return length > 1e-12 ? { x: v.x / length, y: v.y / length } : undefined;
}

/** The direction from one point towards another along the line, taken over `reach`. */
export function direction(points: readonly Point[], from: number, towards: number, reach: number): Point {
  const step = towards > from ? 1 : -1;
  const start = points[from]!;
  let i = from;
  while (i !== towards && distance(start, points[i]!) < reach) i += step;
  const end = points[i]!;
  return unit({ x: end.x - start.x, y: end.y - start.y }) ?? { x: step, y: 0 };
}

function chordLengths(points: readonly Point[], from: number, to: number): Float64Array {
  const u = new Float64Array(to - from + 1);
  for (let i = from + 1; i <= to; i++) u[i - from] = u[i - from - 1]! + distance(points[i - 1]!, points[i]!);
  const total = u[to - from]!;
  if (total > 0) for (let i = 0; i < u.length; i++) u[i] = u[i]! / total;
  return u;
}

interface Fitted extends Cubic {
  from: Point;
}

/** How far the handles reach so that the curve passes the points best, their directions given. */
function leastSquares(points: readonly Point[], from: number, to: number, u: Float64Array, t1: Point, t2: Point): Fitted {
  const p0 = points[from]!;
  const p3 = points[to]!;
  let c00 = 0;
  let c01 = 0;
  let c11 = 0;
  let x0 = 0;
  let x1 = 0;
  const dot = t1.x * t2.x + t1.y * t2.y;
  for (let i = 0; i < u.length; i++) {
    const t = u[i]!;
    const s = 1 - t;
    const b0 = s * s * s;
    const b1 = 3 * s * s * t;
    const b2 = 3 * s * t * t;
    const b3 = t * t * t;
    const p = points[from + i]!;
    const rx = p.x - (p0.x * (b0 + b1) + p3.x * (b2 + b3));
    const ry = p.y - (p0.y * (b0 + b1) + p3.y * (b2 + b3));
    c00 += b1 * b1;
    c01 += b1 * b2 * dot;
    c11 += b2 * b2;
    x0 += b1 * (t1.x * rx + t1.y * ry);
    x1 += b2 * (t2.x * rx + t2.y * ry);
  }
  const det = c00 * c11 - c01 * c01;
  const span = distance(p0, p3);
  let a1 = det > 1e-12 ? (x0 * c11 - x1 * c01) / det : 0;
  let a2 = det > 1e-12 ? (c00 * x1 - c01 * x0) / det : 0;
  // Handles that turn back or are nothing come from too few points: a third of the span serves (Wu and Barsky).
  if (a1 < span * 1e-3 || a2 < span * 1e-3) a1 = a2 = span / 3;
  return { from: p0, c1: along(p0, t1, a1), c2: along(p3, t2, a2), to: p3 };
}

function farthestFrom(points: readonly Point[], from: number, to: number, u: Float64Array, curve: Fitted) {
  let error = 0;
  let at = (from + to) >> 1;
  for (let i = 1; i < u.length - 1; i++) {
    const t = u[i]!;
    const s = 1 - t;
    const b0 = s * s * s;
    const b1 = 3 * s * s * t;
    const b2 = 3 * s * t * t;
    const b3 = t * t * t;
    const p = points[from + i]!;
    const dx = curve.from.x * b0 + curve.c1.x * b1 + curve.c2.x * b2 + curve.to.x * b3 - p.x;
    const dy = curve.from.y * b0 + curve.c1.y * b1 + curve.c2.y * b2 + curve.to.y * b3 - p.y;
    const d = Math.sqrt(dx * dx + dy * dy);
    if (d > error) {
      error = d;
      at = from + i;
    }
  }
  return { error, at };
}

/** One step of Newton's for each point towards its nearest place on the curve. */
function reparameterise(points: readonly Point[], from: number, u: Float64Array, curve: Fitted): void {
  const { from: p0, c1, c2, to: p3 } = curve;
  for (let i = 1; i < u.length - 1; i++) {
    const t = u[i]!;
    const s = 1 - t;
    const p = points[from + i]!;
    const dx = p0.x * s * s * s + 3 * c1.x * s * s * t + 3 * c2.x * s * t * t + p3.x * t * t * t - p.x;
    const dy = p0.y * s * s * s + 3 * c1.y * s * s * t + 3 * c2.y * s * t * t + p3.y * t * t * t - p.y;
    const vx = 3 * ((c1.x - p0.x) * s * s + 2 * (c2.x - c1.x) * s * t + (p3.x - c2.x) * t * t);
    const vy = 3 * ((c1.y - p0.y) * s * s + 2 * (c2.y - c1.y) * s * t + (p3.y - c2.y) * t * t);
    const ax = 6 * ((c2.x - 2 * c1.x + p0.x) * s + (p3.x - 2 * c2.x + c1.x) * t);
    const ay = 6 * ((c2.y - 2 * c1.y + p0.y) * s + (p3.y - 2 * c2.y + c1.y) * t);
    const slope = vx * vx + vy * vy + dx * ax + dy * ay;
    if (Math.abs(slope) > 1e-12) u[i] = Math.min(1, Math.max(0, t - (dx * vx + dy * vy) / slope));
  }
}
