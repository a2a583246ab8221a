import type { Point } from '../geometry/matrix';

/** Marks on a bed that a photo of it is measured by: a ring with a dot in its middle, as nothing else on a bed has. */

export interface Bed {
  widthMm: number;
  lengthMm: number;
}

/** Of its outer diameter: the ring's inner one, and the dot's. */
export const RING_INNER = 0.6;
export const DOT = 0.25;

/** How large marks are on a bed, mm: 1 in 50 of its longer side. */
export const markDiameter = ({ widthMm, lengthMm }: Bed): number => Math.min(60, Math.max(12, Math.max(widthMm, lengthMm) / 50));

/**
 * Where marks stand: at the corners and halfway between them, from the front left on; and one more beside the first, which
 * tells how the picture is turned.
 *
 * @returns mm from the front left corner of the bed
 */
export function markPlaces(bed: Bed): Point[] {
  const { widthMm: w, lengthMm: l } = bed;
  const inset = markDiameter(bed) * 0.75;
  const [x0, x1, x2] = [inset, w / 2, w - inset];
  const [y0, y1, y2] = [inset, l / 2, l - inset];
  return [
    { x: x0, y: y0 }, { x: x2, y: y0 }, { x: x2, y: y2 }, { x: x0, y: y2 },
    { x: x1, y: y0 }, { x: x2, y: y1 }, { x: x1, y: y2 }, { x: x0, y: y1 },
    { x: x0 + 2 * markDiameter(bed), y: y0 }
  ]; // prettier-ignore
}
