import { LRUCache } from 'lru-cache';
import { planWall, type Film, type PlannedWall } from '$core/panels/panels';
import { panelPiece } from '$core/panels/panel-piece';
import { filmTurn, panelMarks } from '$core/panels/panel-marks';
import { markRoomOf, MARKS_ALONG_MM } from '$core/panels/mark-room';
import type { WallLook } from '$core/checks/check';
import { printingOrder } from '$core/panels/hanging';
import type { Wall } from '$core/panels/wall';
import type { Family } from '$core/media/card';
import type { Sides } from '$core/geometry/box';
import { DEFAULT_MARKS } from '$core/marks/registration';
import { cuttingRoom } from '$core/layout/run-layout';
import type { PanelOfWall } from '$core/layout/run-piece';

/** A docket's wall on what it is printed on. */

/** Of a condition what a wall is divided by. */
export interface WallFilm {
  family: Family;
  rollWidthMm: number;
  sheetMm: number | null;
  mode: { dpi: number };
}

/** Of a docket. */
export interface WallChoices {
  widthMm: number;
  heightMm: number;
  bleedMm: number;
  cut: boolean;
  wall: Wall | null;
}

/** Left free at both edges of what panels are printed on, whatever a run says: else a run’s margin would divide the wall anew. */
export const FILM_MARGIN_MM = 5;
/** Where no media is chosen yet. */
const NO_FILM: WallFilm = { family: 'calendered', rollWidthMm: 1300, sheetMm: null, mode: { dpi: 720 } };

/** What of a film panels have. @param condition nothing where none is chosen: then it is one of 1.3 m */
export function filmOf({ cut, wall }: Pick<WallChoices, 'cut' | 'wall'>, condition: WallFilm | undefined): Film {
  const { family, rollWidthMm, sheetMm, mode } = condition ?? NO_FILM;
  const taken = 2 * (FILM_MARGIN_MM + (cut ? cuttingRoom(DEFAULT_MARKS) : 0));
  return {
    usableMm: (wall?.filmMm ?? rollWidthMm) - taken,
    dpi: mode.dpi,
    family,
    ...(sheetMm !== null && { longestMm: sheetMm - taken })
  };
}

const MOST_KEPT = 60;
const plans = new LRUCache<string, PlannedWall>({ max: MOST_KEPT });
const pieces = new LRUCache<string, LaidPanel[]>({ max: MOST_KEPT });

/** How a docket's wall is divided; asked for at each look at its run, it is computed once. */
export function plannedWall(choices: WallChoices & { wall: Wall }, condition: WallFilm | undefined): PlannedWall {
  const { widthMm, heightMm, wall } = choices;
  const film = filmOf(choices, condition);
  // A photo, and what is shown to be calm, changes nothing of it.
  const key = JSON.stringify([{ ...wall, photo: null, spared: [] }, widthMm, heightMm, film]);
  const known = plans.get(key);
  if (known) return known;
  const made = planWall(wall, { widthMm, heightMm }, film);
  plans.set(key, made);
  return made;
}

/** A panel as a run takes it. */
export interface LaidPanel {
  index: number;
  bleed: Sides;
  turn: 0 | 90 | 180 | 270;
  panel: PanelOfWall;
}

/** Panels in the order in which they are printed: the first that is hung comes last, and lies outermost on the roll. */
export function laidPanels(
  choices: WallChoices & { wall: Wall },
  condition: WallFilm | undefined,
  words: string
): readonly LaidPanel[] {
  const { wall, widthMm, heightMm, bleedMm } = choices;
  const film = filmOf(choices, condition);
  const key = JSON.stringify([{ ...wall, photo: null, spared: [] }, widthMm, heightMm, bleedMm, film, words]);
  const known = pieces.get(key);
  if (known) return known;
  const planned = plannedWall(choices, condition);
  const room = markRoomOf(wall);
  const made = printingOrder(planned.hanging).map((panel): LaidPanel => {
    const piece = panelPiece(wall, panel, planned.size);
    const strip = wall.film === 'upright' ? panel.column : panel.row;
    const { part, bleed, clip, white, lines } = piece;
    return {
      index: panel.index,
      bleed,
      turn: ((filmTurn(wall) + (wall.alternate && strip % 2 === 1 ? 180 : 0)) % 360) as LaidPanel['turn'],
      panel: {
        number: panel.order,
        wall: planned.size,
        part,
        pictureBeyondMm: bleedMm,
        clip,
        white,
        lines,
        marks: panelMarks(wall, planned, panel, piece, words),
        room
      }
    };
  });
  pieces.set(key, made);
  return made;
}

/** Of a machine what a wall's film is told by. */
interface LoadedOn {
  id: number;
  printer: { media: { name: string; widthMm: number; lengthMm: number } } | null;
}

/** Of a condition where its film comes from. */
export type StockFilm = WallFilm & { media: string; machineId: number; rolls: readonly { widthMm: number; lengthMm: number }[] };

const SAME_WIDTH_MM = 1;

/** What there is of a condition's media in one width, mm along it: on its machine, and in stock. */
export function rollsOf(
  { media, machineId, rolls, sheetMm }: StockFilm,
  machines: readonly LoadedOn[],
  widthMm: number
): { inAllMm: number; longestMm: number } | undefined {
  if (sheetMm !== null) return undefined;
  const loaded = machines.find(({ id }) => id === machineId)?.printer?.media;
  const all = [...rolls, ...(loaded?.name === media ? [loaded] : [])]
    .filter((roll) => Math.abs(roll.widthMm - widthMm) <= SAME_WIDTH_MM)
    .map(({ lengthMm }) => lengthMm);
  // What no one counts is not told.
  if (all.length === 0) return undefined;
  return { inAllMm: all.reduce((sum, mm) => sum + mm, 0), longestMm: Math.max(...all) };
}

/** A docket's wall as its checks look at it; nothing where it is none. @param busy under its seams, where the artwork was looked at */
export function wallLook(
  choices: WallChoices,
  condition: StockFilm | undefined,
  machines: readonly LoadedOn[],
  busy?: WallLook['busy']
): WallLook | undefined {
  const { wall } = choices;
  if (!wall) return undefined;
  const planned = plannedWall({ ...choices, wall }, condition);
  const along = wall.film === 'upright' ? ('height' as const) : ('width' as const);
  const neededMm = planned.panels.reduce((sum, { box }) => sum + box[along] + MARKS_ALONG_MM, 0);
  const stock = condition && rollsOf(condition, machines, wall.filmMm ?? condition.rollWidthMm);
  return { wall, planned, film: filmOf(choices, condition), neededMm, ...(stock && { stock }), ...(busy && { busy }) };
}
