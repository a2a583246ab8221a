import { beyondMm } from '$core/artwork/choices';
import { evenSides } from '$core/geometry/box';
import { roomOf } from '$core/marks/finishing';
import { DEFAULT_MARKS, markRoom } from '$core/marks/registration';
import { DEFAULT_RULE } from '$lib/run-rule';
import type { DocketChoices } from '$lib/docket-choices';

/** What of a roll is left across for a docket's own size, mm: margins, the cutter's marks and what is added around it taken off. */
export function usableWidth(choices: DocketChoices, rollWidthMm: number): number {
  const beyond = beyondMm(choices);
  const room = roomOf({ ...choices, bleed: evenSides(beyond) }, choices.finishing);
  const marks = choices.cut ? 2 * markRoom(DEFAULT_MARKS) : 0;
  return rollWidthMm - 2 * DEFAULT_RULE.margin - marks - (room.left + room.right - 2 * beyond);
}
