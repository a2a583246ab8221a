/** A 2-D affine map in the order of PDF and mupdf: x' = a·x + c·y + e, y' = b·x + d·y + f. */
export type Matrix = readonly [a: number, b: number, c: number, d: number, e: number, f: number];

export interface Point {
  x: number;
  y: number;
}

export const IDENTITY: Matrix = [1, 0, 0, 1, 0, 0];

export const translation = (x: number, y: number): Matrix => [1, 0, 0, 1, x, y];
export const scaling = (sx: number, sy = sx): Matrix => [sx, 0, 0, sy, 0, 0];

const QUARTERS: Record<number, [number, number]> = { 0: [1, 0], 90: [0, 1], 180: [-1, 0], 270: [0, -1] };

/** A turn by `degrees`; with y down the turn is clockwise on the screen. Quarter turns are exact. */
export function rotation(degrees: number): Matrix {
  const radians = (degrees * Math.PI) / 180;
  const [c, s] = QUARTERS[degrees] ?? [Math.cos(radians), Math.sin(radians)];
  return [c, s, -s, c, 0, 0];
}

/** The box of a rectangle that is turned. */
export function turnedSize(width: number, height: number, degrees: number): { width: number; height: number } {
  if (degrees % 180 === 0) return { width, height };
  if (degrees % 90 === 0) return { width: height, height: width };
  const [c, s] = rotation(degrees).map(Math.abs) as [number, number];
  return { width: width * c + height * s, height: width * s + height * c };
}

/** Turns a rectangle that begins at 0, 0 so that its box begins there again. */
export function turnedInPlace(width: number, height: number, degrees: number): Matrix {
  const turn = rotation(degrees);
  const corners = [0, width].flatMap((x) => [0, height].map((y) => apply(turn, { x, y })));
  return chain(turn, translation(-Math.min(...corners.map((p) => p.x)), -Math.min(...corners.map((p) => p.y))));
}

/** First `m`, then `n`. (An export named “then” would make the module look like a promise.) */
export function chain(m: Matrix, n: Matrix): Matrix {
  return [
    m[0] * n[0] + m[1] * n[2],
    m[0] * n[1] + m[1] * n[3],
    m[2] * n[0] + m[3] * n[2],
    m[2] * n[1] + m[3] * n[3],
    m[4] * n[0] + m[5] * n[2] + n[4],
    m[4] * n[1] + m[5] * n[3] + n[5]
  ];
}

export function apply(m: Matrix, p: Point): Point {
  return { x: m[0] * p.x + m[2] * p.y + m[4], y: m[1] * p.x + m[3] * p.y + m[5] };
}

/** Rings turned about 0, 0. */
export function turnRings(rings: readonly (readonly Point[])[], degrees: number): Point[][] {
  const turn = rotation(degrees);
  return rings.map((ring) => ring.map((p) => apply(turn, p)));
}

export const determinant = (m: Matrix): number => m[0] * m[3] - m[1] * m[2];

/** @throws RangeError when the map flattens the plane */
export function invert(m: Matrix): Matrix {
  const det = determinant(m);
  if (Math.abs(det) < 1e-14) throw new RangeError('This map has no inverse.');
  const [a, b, c, d, e, f] = m;
  return [d / det, -b / det, -c / det, a / det, (c * f - d * e) / det, (b * e - a * f) / det];
}
