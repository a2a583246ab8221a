import { sizeBeyond } from '../geometry/box';
import { printSeconds, type PrintSpeed } from '../inks/drops';
import { pieceOf } from './pieces';
import type { Part, Placement } from './placement';
import type { RunPiece } from './run-piece';

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
 * @param pieces that are laid out, by their keys
 * @param mlOf of one copy of a piece, as far as it is known
 */
export function takenBy(
  { parts }: { parts: readonly Pick<Part, 'copies'>[] },
  pieces: ReadonlyMap<string, Pick<RunPiece, 'widthMm' | 'heightMm' | 'bleed'>>,
  times: number,
  mlOf: (piece: string) => number
): Map<number, Taken> {
  const taken = new Map<number, Taken>();
  for (const { id } of parts.flatMap(({ copies }) => copies)) {
    const piece = pieces.get(id);
    if (!piece) continue;
    const docket = Number(pieceOf(id).docket);
    const { areaM2, inkMl } = taken.get(docket) ?? { areaM2: 0, inkMl: 0 };
    const { width, height } = sizeBeyond(piece.widthMm, piece.heightMm, piece.bleed);
    taken.set(docket, { areaM2: areaM2 + (width * height * times) / 1e6, inkMl: inkMl + mlOf(id) * times });
  }
  return taken;
}

/** The same with the ink of each docket as plates have it. @param byDocket ml of one print */
export const inkCounted = (
  taken: ReadonlyMap<number, Taken>,
  byDocket: Readonly<Record<number, number>>,
  times: number
): Map<number, Taken> => new Map([...taken].map(([id, one]) => [id, { ...one, inkMl: (byDocket[id] ?? 0) * times }]));

/** Shares of a docket in all that is printed together, which add up to 1 for all of them. */
export interface Shares {
  /** Of media, machine and waste: by the area that its copies take. */
  area: number;
  /** Of ink: its own, and by area of what is no docket's, as marks. */
  ink: number;
}

/** @param allMl the ink of all together, where more is known than the sum of what each takes */
export function sharesOf(taken: ReadonlyMap<number, Taken>, allMl = 0): Map<number, Shares> {
  const all = [...taken.values()];
  const m2 = all.reduce((sum, { areaM2 }) => sum + areaM2, 0);
  const own = all.reduce((sum, { inkMl }) => sum + inkMl, 0);
  const ml = Math.max(own, allMl);
  return new Map(
    [...taken].map(([docket, { areaM2, inkMl }]) => {
      const area = m2 === 0 ? 0 : areaM2 / m2;
      return [docket, { area, ink: ml === 0 ? area : (inkMl + (ml - own) * area) / ml }];
    })
  );
}

/** A docket's part of what a run costs. Nothing where none of it lies there. */
export function shareOf(
  docket: number,
  taken: ReadonlyMap<number, Taken>,
  costs: RunCosts,
  wasteShare: number,
  allMl: number
): { cost: number; waste: number } | undefined {
  const shares = sharesOf(taken, allMl).get(docket);
  if (!shares) return undefined;
  return {
    cost: (costs.media + costs.time) * shares.area + costs.ink * shares.ink,
    waste: costs.media * wasteShare * shares.area
  };
}
