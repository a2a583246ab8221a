import { formatLength, type LengthUnit } from '$core/units/length';
import type { Point } from '$core/geometry/matrix';
import type { Axis, PlannedWall } from '$core/panels/panels';
import { courseAt, type Seam } from '$core/panels/wall';

/** What is drawn of a wall, mm. */

export const ringData = (points: readonly Point[]): string =>
  `M${points.map(({ x, y }) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}Z`;

/** A seam from one end of the wall to the other. */
export function seamData(seam: Seam, axis: Axis, { widthMm, heightMm }: PlannedWall['size']): string {
  const steps = Math.max(1, seam.course.length - 1);
  const extent = axis === 'columns' ? heightMm : widthMm;
  return `M${Array.from({ length: steps + 1 }, (_, i) => {
    const [on, off] = [(i / steps) * extent, seam.at + courseAt(seam, i / steps)];
    return axis === 'columns' ? `${off.toFixed(1)} ${on.toFixed(1)}` : `${on.toFixed(1)} ${off.toFixed(1)}`;
  }).join('L')}`;
}

/** A place on a wall, as finely as a tape tells it. */
export const placeOn = (mm: number, unit: LengthUnit): string => formatLength(mm, unit, { mm: 0, cm: 1 }[unit as 'mm' | 'cm']);

/** A share as it is said. */
export const percent = (share: number): string => `${Math.round(share * 100)} %`;
