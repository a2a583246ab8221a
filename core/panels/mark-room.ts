import type { Sides } from '../geometry/box';
import type { Wall } from './wall';

/** What marks beside a panel take of the film, mm. */

export const HEAD_MM = 14;
export const FOOT_MM = 8;
export const SIDE_MM = 7;
/** Along it, at both ends together. */
export const MARKS_ALONG_MM = HEAD_MM + FOOT_MM;

/** Start marks stand at one side; what is divided along the film too has the places of those seams at both. */
function sideRoom(wall: Wall): { before: number; after: number } {
  const lengthwise = wall.film === 'upright' ? wall.rows : wall.columns;
  const isDivided = lengthwise.seams ? lengthwise.seams.length > 0 : lengthwise.how !== 'whole';
  return { before: isDivided || wall.startMarksMm > 0 ? SIDE_MM : 0, after: isDivided ? SIDE_MM : 0 };
}

/** Across it, on both sides together. */
export const marksAcross = (wall: Wall): number => {
  const { before, after } = sideRoom(wall);
  return before + after;
};

/** Beyond what prints of a panel, as the wall stands. */
export function markRoomOf(wall: Wall): Sides {
  const { before, after } = sideRoom(wall);
  return wall.film === 'upright'
    ? { left: before, top: HEAD_MM, right: after, bottom: FOOT_MM }
    : { left: HEAD_MM, top: after, right: FOOT_MM, bottom: before };
}
