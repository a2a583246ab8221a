import { sumOf, type Placement } from '$core/layout/placement';
import { layOutRun } from '$core/layout/run-layout';
import type { Division, Wall } from '$core/panels/wall';
import { DEFAULT_RULE } from './run-rule';
import { toRunPieces } from './run-pieces';
import type { DocketChoices } from './docket-choices';
import { plannedWall, rollsOf, type StockFilm } from './panels';

/** The same wall on every film that there is, upright and lying, as placing rules are compared. */

/** A condition that it could be printed in. */
export type FilmOffer = StockFilm & { id: number; machine: string; costPerM2: number };

export interface WidthLine {
  conditionId: number;
  machine: string;
  media: string;
  widthMm: number;
  film: Wall['film'];
  panels: number;
  /** Along the film, its waste with it, mm. */
  lengthMm: number;
  areaM2: number;
  /** m² that show nothing of the wall: overlaps, trim, marks, and what lies beside. */
  wasteM2: number;
  wasteShare: number;
  seamsMm: number;
  cost: number;
  /** Why it cannot be taken. */
  cannot: string;
  /** What the rolls in stock lack. */
  shortMm: number;
}

const NO_SEAMS: Pick<Division, 'seams'> = { seams: null };

/** The wall as it would be on another film: seams by hand are of the film that they were put on. */
export function onFilm(wall: Wall, film: Wall['film'], filmMm: number | null): Wall {
  const [columns, rows] = film === wall.film ? [wall.columns, wall.rows] : [wall.rows, wall.columns];
  return { ...wall, film, filmMm, columns: { ...columns, ...NO_SEAMS }, rows: { ...rows, ...NO_SEAMS } };
}

/** Widths of a condition's media: what is in its machine, and what lies in stock. */
const widthsOf = ({ rollWidthMm, rolls }: FilmOffer): number[] =>
  [...new Set([rollWidthMm, ...rolls.map(({ widthMm }) => widthMm)])].sort((p, q) => p - q);

type Machines = Parameters<typeof rollsOf>[1];

interface WalledDocket {
  id: number;
  name: string;
  customer: string;
  choices: DocketChoices & { wall: Wall };
}

/** A docket's wall as it is, on the film that it is on: with its seams where they were put. */
export function filmNow(docket: WalledDocket, offer: FilmOffer, machines: Machines): WidthLine {
  const { wall } = docket.choices;
  return lineOf(docket, offer, wall, wall.filmMm ?? offer.rollWidthMm, machines);
}

/** A wall on one film. */
function lineOf(docket: WalledDocket, offer: FilmOffer, wall: Wall, widthMm: number, machines: Machines): WidthLine {
  const { film } = wall;
  const choices = { ...docket.choices, wall, copies: 1 };
  const planned = plannedWall(choices, offer);
  const stock = { kind: 'roll' as const, width: widthMm };
  const pieces = toRunPieces({ ...docket, choices }, { condition: offer });
  const layouts = (['rows', 'straight'] as const).map((placing) =>
    planned.faults.length > 0 || pieces.length === 0
      ? sumOf([], stock)
      : layOutRun(stock, { ...DEFAULT_RULE, placing, effort: 'quick', steps: STEPS }, pieces, [])
  );
  const layout = layouts.reduce<Placement>(
    (best, one) => (one.refusal === null && one.length < best.length ? one : best),
    layouts[0]!
  );
  const { size, columns, rows } = planned;
  const seenM2 = (size.widthMm * size.heightMm) / 1e6;
  const inStock = rollsOf(offer, machines, widthMm);
  const [fault] = planned.faults;
  const wasteM2 = Math.max(0, layout.areaM2 - seenM2);
  return {
    conditionId: offer.id,
    machine: offer.machine,
    media: offer.media,
    widthMm,
    film,
    panels: planned.panels.length,
    lengthMm: layout.length,
    areaM2: layout.areaM2,
    wasteM2,
    wasteShare: layout.areaM2 > 0 ? wasteM2 / layout.areaM2 : 0,
    seamsMm: columns.length * size.heightMm + rows.length * size.widthMm,
    cost: layout.areaM2 * offer.costPerM2,
    cannot: fault?.sentence ?? (layout.tooLarge.length > 0 ? 'A panel is wider than this film.' : ''),
    shortMm: inStock ? Math.max(0, layout.length - inStock.inAllMm) : 0
  };
}

/** A quick look at each: the run finds the best of it. */
const STEPS = 40;

/** Every film that a wall could be printed on, the cheapest first; what cannot be taken last. */
export function compareFilms(
  docket: { id: number; name: string; customer: string; choices: DocketChoices },
  offers: readonly FilmOffer[],
  machines: Machines
): WidthLine[] {
  const { wall } = docket.choices;
  if (!wall) return [];
  const walled = { ...docket, choices: { ...docket.choices, wall } };
  const lines = offers
    .filter(({ sheetMm }) => sheetMm === null)
    .flatMap((offer) =>
      widthsOf(offer).flatMap((widthMm) =>
        (['upright', 'lying'] as const).map((film) => lineOf(walled, offer, onFilm(wall, film, widthMm), widthMm, machines))
      )
    );
  return lines.sort((p, q) => Number(p.cannot !== '') - Number(q.cannot !== '') || p.cost - q.cost || p.panels - q.panels);
}
