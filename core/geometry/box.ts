import type { Point } from './matrix';

/** An upright rectangle by its corner of least x and y, and its size. */
export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** What lies beyond each side of a rectangle, or is taken off it. */
export interface Sides {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

export const scaledSides = ({ left, top, right, bottom }: Sides, scale: number): Sides => ({
  left: left * scale,
  top: top * scale,
  right: right * scale,
  bottom: bottom * scale
});

export const evenSides = (beyond: number): Sides => ({ left: beyond, top: beyond, right: beyond, bottom: beyond });

/** Whether sides reach as far as others do, each of them. */
export const reachTo = (sides: Sides, others: Sides): boolean =>
  sides.left >= others.left && sides.top >= others.top && sides.right >= others.right && sides.bottom >= others.bottom;

/** The farther of each side. */
export const fartherSides = (p: Sides, q: Sides): Sides => ({
  left: Math.max(p.left, q.left),
  top: Math.max(p.top, q.top),
  right: Math.max(p.right, q.right),
  bottom: Math.max(p.bottom, q.bottom)
});

/** A rectangle's size with what lies beyond its sides. */
export const sizeBeyond = (widthMm: number, heightMm: number, { left, top, right, bottom }: Sides) => ({
  width: widthMm + left + right,
  height: heightMm + top + bottom
});

/** The sides as they lie when a rectangle is turned clockwise by quarters. */
export function turnedSides(sides: Sides, turn: number): Sides {
  const { left, top, right, bottom } = sides;
  switch (((turn % 360) + 360) % 360) {
    case 90:
      return { left: bottom, top: left, right: top, bottom: right };
    case 180:
      return { left: right, top: bottom, right: left, bottom: top };
    case 270:
      return { left: top, top: right, right: bottom, bottom: left };
    default:
      return sides;
  }
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
