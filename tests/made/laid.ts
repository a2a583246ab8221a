import { evenSides } from '$core/geometry/box';
import type { RunLayoutRule } from '$core/layout/run-layout';
import type { RunPiece } from '$core/layout/run-piece';
import { NO_FINISHING } from '$core/marks/finishing';
import { DEFAULT_MARKS } from '$core/marks/registration';

/** Pieces of 90 × 90 mm without bleed, and a rule that lays them out in rows, for layouts in tests. */

export const madePiece = (over: Partial<RunPiece> = {}): RunPiece => ({
  id: 'a',
  docket: 'a',
  piece: 0,
  widthMm: 90,
  heightMm: 90,
  bleed: evenSides(0),
  copies: 1,
  first: 0,
  of: 1,
  cut: false,
  mayTurn: true,
  intent: 'relative',
  finishing: NO_FINISHING,
  caption: 'Docket 7 · Ferry company',
  ...over
});

export const madeRule = (over: Partial<RunLayoutRule> = {}): RunLayoutRule => ({
  placing: 'rows',
  gapX: 4,
  gapY: 4,
  margin: 5,
  lead: 10,
  tail: 20,
  align: 'left',
  single: false,
  fill: 'none',
  longest: null,
  turnStep: 90,
  effort: 'quick',
  steps: null,
  marks: DEFAULT_MARKS,
  colourBar: false,
  ...over
});
