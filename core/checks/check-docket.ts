import type { Check, CheckInput } from './check';
import * as colour from './colour';
import * as cut from './cut-lines';
import * as lettering from './lettering';
import * as size from './size';

/** Every check, in the order in which an operator would go about it. */
export const CHECKS: readonly ((input: CheckInput) => Check[])[] = [
  size.blank,
  size.width,
  size.boxes,
  size.stretch,
  size.resolution,
  size.bleed,
  size.nearTrim,
  lettering.fonts,
  lettering.thinLines,
  lettering.thinText,
  lettering.whiteText,
  lettering.richText,
  lettering.blackAreas,
  colour.spotRoles,
  colour.spotColours,
  colour.extraInks,
  colour.colours,
  colour.overprint,
  colour.transparency,
  colour.totalInk,
  colour.gamut,
  cut.cutMissing,
  cut.cutTooMany,
  cut.cutOpen,
  cut.cutCrossing,
  cut.cutDoubled,
  cut.cutNodes,
  cut.cutCorners,
  cut.cutOutside,
  cut.cutIslands,
  cut.cutThroughArt
];

const ORDER = { stop: 0, look: 1, fine: 2 };

/** All findings on a docket, the worst first. */
export const checkDocket = (input: CheckInput): Check[] =>
  CHECKS.flatMap((check) => check(input)).sort((p, q) => ORDER[p.level] - ORDER[q.level]);
