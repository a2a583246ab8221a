import type { Matrix, Point } from '../geometry/matrix';
import type { WallPhoto } from './wall';

/** A photo without two places that can be told apart says nothing of the wall. */
const LEAST_APART = 1e-6;

/**
 * Where the wall lies in its photo, by two points of it: turned, moved and at one scale, as a camera sees it that faces it squarely.
 *
 * @returns mm of the wall → shares of the photo's width, both ways; nothing where the two points are one
 */
export function wallToPhoto({ points, aspect }: Pick<WallPhoto, 'points' | 'aspect'>): Matrix | undefined {
  const [p, q] = points;
  if (!p || !q) return undefined;
  const from: Point = { x: q.x - p.x, y: q.y - p.y };
  // Shares of the height, as shares of the width.
  const to: Point = { x: q.u - p.u, y: (q.v - p.v) * aspect };
  const length = from.x ** 2 + from.y ** 2;
  if (length < LEAST_APART || Math.hypot(to.x, to.y) < LEAST_APART) return undefined;
  // As complex numbers: to ÷ from.
  const a = (to.x * from.x + to.y * from.y) / length;
  const b = (to.y * from.x - to.x * from.y) / length;
  return [a, b, -b, a, p.u - a * p.x + b * p.y, p.v * aspect - b * p.x - a * p.y];
}
