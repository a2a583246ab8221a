import { Matrix, solve } from 'ml-matrix';
import type { Point } from '../geometry/matrix';

/** How a plane is seen by a camera: nine figures, row by row, that take a place on it to one in the picture. */
export type Homography = readonly number[];

export interface Seen {
  /** On the plane. */
  from: Point;
  /** In the picture. */
  to: Point;
}

export function project(h: Homography, { x, y }: Point): Point {
  const w = h[6]! * x + h[7]! * y + h[8]!;
  return { x: (h[0]! * x + h[1]! * y + h[2]!) / w, y: (h[3]! * x + h[4]! * y + h[5]!) / w };
}

const times = (a: Homography, b: Homography): number[] =>
  Array.from({ length: 9 }, (_, i) => [0, 1, 2].reduce((sum, k) => sum + a[3 * Math.floor(i / 3) + k]! * b[3 * k + (i % 3)]!, 0));

export function inverse(h: Homography): Homography {
  const [a, b, c, d, e, f, g, i, j] = h as [number, number, number, number, number, number, number, number, number];
  const det = a * (e * j - f * i) - b * (d * j - f * g) + c * (d * i - e * g);
  return [e * j - f * i, c * i - b * j, b * f - c * e, f * g - d * j, a * j - c * g, c * d - a * f, d * i - e * g, b * g - a * i, a * e - b * d].map(
    (v) => v / det
  ); // prettier-ignore
}

/** Moves points about their middle and to a spread of 1, where least squares are well behaved. */
function evened(points: readonly Point[]): { to: Homography; points: Point[] } {
  const n = points.length;
  const middle = { x: points.reduce((sum, p) => sum + p.x, 0) / n, y: points.reduce((sum, p) => sum + p.y, 0) / n };
  const spread = Math.max(1e-9, points.reduce((sum, p) => sum + Math.hypot(p.x - middle.x, p.y - middle.y), 0) / n);
  const to = [1 / spread, 0, -middle.x / spread, 0, 1 / spread, -middle.y / spread, 0, 0, 1];
  return { to, points: points.map((p) => project(to, p)) };
}

/**
 * The plane's way into the picture by least squares (the direct linear transform of Hartley and Zisserman, evened).
 *
 * @param seen four or more, no three of them in a line
 * @throws RangeError where they say nothing
 */
export function homographyOf(seen: readonly Seen[]): Homography {
  if (seen.length < 4) throw new RangeError('Four points at least say how a plane is seen.');
  const [plane, picture] = [evened(seen.map(({ from }) => from)), evened(seen.map(({ to }) => to))];
  const rows: number[][] = [];
  const wanted: number[] = [];
  plane.points.forEach(({ x, y }, i) => {
    const { x: u, y: v } = picture.points[i]!;
    rows.push([x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]);
    wanted.push(u, v);
  });
  const found = solve(new Matrix(rows), Matrix.columnVector(wanted), true).to1DArray();
  if (!found.every(Number.isFinite)) throw new RangeError('These points say nothing of how a plane is seen.');
  return times(times(inverse(picture.to), [...found, 1]), plane.to);
}

/** The root of the mean square of what is left on the plane, in its units. */
export function residualOf(h: Homography, seen: readonly Seen[]): number {
  const back = inverse(h);
  const squares = seen.map(({ from, to }) => {
    const at = project(back, to);
    return (at.x - from.x) ** 2 + (at.y - from.y) ** 2;
  });
  return Math.sqrt(squares.reduce((sum, square) => sum + square, 0) / seen.length);
}
