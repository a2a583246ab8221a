import type { Point } from './matrix';

/** An upright rectangle by its corner of least x and y, and its size. */
export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** The smallest box around all points; nothing where there are none. */
export function boxAround(rings: Iterable<readonly Point[]>): Box | undefined {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const points of rings)
    for (const { x, y } of points) {
      x0 = Math.min(x0, x);
      y0 = Math.min(y0, y);
      x1 = Math.max(x1, x);
      y1 = Math.max(y1, y);
    }
  return x1 < x0 ? undefined : { x: x0, y: y0, width: x1 - x0, height: y1 - y0 };
}
