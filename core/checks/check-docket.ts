import type { Check, CheckInput, Found, Subject } from './check';
import * as colour from './colour';
import * as cut from './cut-lines';
import * as intake from './intake';
import * as jigs from './jigs';
import * as layers from './layers';
import * as lettering from './lettering';
import * as records from './records';
import * as size from './size';
import * as walls from './walls';

type CheckFunction = (input: CheckInput) => Found[];

/** What is looked at on the artwork, in the order in which an operator would go about it. */
const OF_ARTWORK: readonly [Subject, readonly CheckFunction[]][] = [
  ['size', [size.blank, intake.asSent, intake.fields, size.width, size.boxes, size.stretch, size.resolution]],
  [
    'wall',
    [
      walls.division,
      walls.filmWidth,
      walls.filmLength,
      walls.filmStock,
      walls.bleed,
      walls.overlap,
      walls.narrow,
      walls.lettering,
      walls.busy,
      walls.openings,
      walls.corners,
      walls.whiteStrip
    ]
  ],
  ['records', [records.unfilled, records.columns]],
  ['bleed', [size.bleed, size.nearTrim]],
  ['jig', [jigs.inJig]],
  [
    'colour',
    [
      lettering.fonts,
      lettering.thinLines,
      lettering.thinText,
      lettering.whiteText,
      lettering.richText,
      lettering.blackAreas,
      colour.spotRoles,
      colour.twoRoles,
      colour.spotColours,
      colour.colours,
      colour.overprint,
      colour.transparency,
      layers.black,
      colour.drift,
      colour.totalInk,
      colour.gamut
    ]
  ],
  [
    'layers',
    [
      layers.inkMissing,
      layers.tooMany,
      layers.whiteMissing,
      layers.primer,
      layers.facing,
      layers.lettering,
      layers.whitePeeps,
      layers.varnishBeneath,
      layers.amounts,
      layers.otherPages,
      layers.marks
    ]
  ]
];

/** What is looked at on the lines for the cutter. */
const OF_LINES: readonly CheckFunction[] = [
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

export const CHECKS = [...OF_ARTWORK.flatMap(([, checks]) => checks), ...OF_LINES];

const look = (input: CheckInput, about: Subject, checks: readonly CheckFunction[]): Check[] =>
  checks.flatMap((check) => check(input)).map((found) => ({ ...found, about }));

export const checkArtwork = (input: CheckInput): Check[] => OF_ARTWORK.flatMap(([about, checks]) => look(input, about, checks));
/** Apart from the others, since long lines take their time; what lies in a jig is not cut. */
export const checkLines = (input: CheckInput): Check[] => (input.jig ? [] : look(input, 'cut', OF_LINES));

/** The worst first. What is found more than once, as of several seams, has an id for each time. */
export function worstFirst(checks: readonly Check[]): Check[] {
  const times = new Map<string, number>();
  const own = checks.map((check) => {
    const time = (times.get(check.id) ?? 0) + 1;
    times.set(check.id, time);
    return time === 1 ? check : { ...check, id: `${check.id} ${time}` };
  });
  return own.sort((p, q) => ORDER[p.level] - ORDER[q.level]);
}

/** All findings on a docket, the worst first. */
export const checkDocket = (input: CheckInput): Check[] => worstFirst([...checkArtwork(input), ...checkLines(input)]);
