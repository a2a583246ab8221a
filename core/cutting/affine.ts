import { solve } from '../geometry/solve';
import type { Matrix, Point } from '../geometry/matrix';

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
