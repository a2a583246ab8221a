import { beyondMm, type ArtworkChoices } from '../artwork/choices';
import { printSeconds, type PrintSpeed } from '../inks/drops';
import { pieceOf } from './pieces';
import type { Placement } from './placement';

/** What a run is printed with, and what that costs in the shop's money. */
export interface Rates {
  /** Nothing where the machine is not known. */
  press: (PrintSpeed & { widthMm: number }) | null;
  /** How often it is printed. */
  times: number;
  mediaPerM2: number;
  machinePerHour: number;
  inkPerMl: number;
}

export interface RunCosts {
  /** Nothing where it is not known. */
  seconds: number | null;
  media: number;
  time: number;
  ink: number;
  all: number;
}

export function runCosts(layout: Placement, inkMl: number, rates: Rates): RunCosts {
  const { press, times, mediaPerM2, machinePerHour, inkPerMl } = rates;
  const seconds =
    press && layout.length > 0
      ? layout.parts.reduce((sum, part) => sum + printSeconds(press.widthMm, part.length, press), 0) * times
      : null;
  const [media, time, ink] = [layout.areaM2 * times * mediaPerM2, ((seconds ?? 0) / 3600) * machinePerHour, inkMl * inkPerMl];
  return { seconds, media, time, ink, all: media + time + ink };
}

export const copiesIn = (layout: Placement): number => layout.parts.reduce((sum, part) => sum + part.copies.length, 0);

/** What the copies of one docket take: m² with what lies around them, and ml. */
export interface Taken {
  areaM2: number;
  inkMl: number;
}

/**
 * By docket, what its copies in a layout take.
 *
 * @param mlOf of one copy of a docket, where it is known
 * @param partOf what part of its docket a piece is, as a panel of its wall; 1 for a whole one
 */
export function takenBy(
  layout: Placement,
  dockets: readonly { id: number; choices: Pick<ArtworkChoices, 'widthMm' | 'heightMm'> & Parameters<typeof beyondMm>[0] }[],
  times: number,
  mlOf: (docket: number) => number | undefined,
  partOf: (piece: string) => number
): Map<number, Taken> {
  const counts = new Map<string, number>();
  for (const { id } of layout.parts.flatMap((part) => part.copies)) {
    const { docket } = pieceOf(id);
    counts.set(docket, (counts.get(docket) ?? 0) + partOf(id));
  }
  return new Map(
    dockets.map(({ id, choices }) => {
      const count = (counts.get(String(id)) ?? 0) * times;
      const beyond = 2 * beyondMm(choices);
      const areaM2 = ((choices.widthMm + beyond) * (choices.heightMm + beyond) * count) / 1e6;
      return [id, { areaM2, inkMl: (mlOf(id) ?? 0) * count }];
    })
  );
}

/** A docket's part of what a run costs, by the area that its copies take; its ink is its own. Nothing where none of it lies there. */
export function shareOf(
  docket: number,
  taken: ReadonlyMap<number, Taken>,
  costs: RunCosts,
  wasteShare: number,
  inkPerMl: number
): { cost: number; waste: number } | undefined {
  const own = taken.get(docket);
  const all = [...taken.values()].reduce((sum, { areaM2 }) => sum + areaM2, 0);
  if (!own || all === 0) return undefined;
  const part = own.areaM2 / all;
  return { cost: (costs.media + costs.time) * part + own.inkMl * inkPerMl, waste: costs.media * wasteShare * part };
}
