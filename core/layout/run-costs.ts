import { sizeBeyond } from '../geometry/box';
import { inkUse, NO_INK, sumOfInk, timesInk, type InkUse, type Prices } from '../inks/ink-prices';
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
}

export interface RunCosts {
  /** Nothing where it is not known. */
  seconds: number | null;
  media: number;
  time: number;
  ink: number;
  all: number;
}

/** @param ink what that of all prints costs */
export function runCosts(layout: Placement, ink: number, rates: Rates): RunCosts {
  const { press, times, mediaPerM2, machinePerHour } = rates;
  const seconds =
    press && layout.length > 0
      ? layout.parts.reduce((sum, part) => sum + printSeconds(press.widthMm, part.length, press), 0) * times
      : null;
  const [media, time] = [layout.areaM2 * times * mediaPerM2, ((seconds ?? 0) / 3600) * machinePerHour];
  return { seconds, media, time, ink, all: media + time + ink };
}

export const copiesIn = (layout: Placement): number => layout.parts.reduce((sum, part) => sum + part.copies.length, 0);

/** What the copies of one docket take: m² with what lies around them, and ink. */
export interface Taken {
  areaM2: number;
  ink: InkUse;
}

/**
 * By docket, what its copies in a layout take.
 *
 * @param pieces that are laid out, by their keys
 * @param inkOf of one copy of a piece, as far as it is known
 */
export function takenBy(
  { parts }: { parts: readonly Pick<Part, 'copies'>[] },
  pieces: ReadonlyMap<string, Pick<RunPiece, 'widthMm' | 'heightMm' | 'bleed'>>,
  times: number,
  inkOf: (piece: string) => InkUse
): Map<number, Taken> {
  const taken = new Map<number, Taken>();
  for (const { id } of parts.flatMap(({ copies }) => copies)) {
    const piece = pieces.get(id);
    if (!piece) continue;
    const docket = Number(pieceOf(id).docket);
    const { areaM2, ink } = taken.get(docket) ?? { areaM2: 0, ink: NO_INK };
    const { width, height } = sizeBeyond(piece.widthMm, piece.heightMm, piece.bleed);
    taken.set(docket, {
      areaM2: areaM2 + (width * height * times) / 1e6,
      ink: sumOfInk([ink, timesInk(inkOf(id), times)])
    });
  }
  return taken;
}

/** The ink of one print as its plates have it: of all, and by docket where they tell whose it is. */
export interface CountedInk {
  all: InkUse;
  byDocket: ReadonlyMap<number, InkUse> | undefined;
}

/**
 * @param ml by ink of the machine
 * @param usual what the shop pays for a ml of any ink
 */
export function countedInk(
  ml: { inkMl: readonly number[]; inkByDocket?: Readonly<Record<number, readonly number[]>> | undefined },
  prices: Prices,
  usual: number
): CountedInk {
  const useOf = (inks: readonly number[]) => inkUse(inks, prices, usual);
  const dockets = ml.inkByDocket && Object.entries(ml.inkByDocket).map(([id, inks]) => [Number(id), useOf(inks)] as const);
  return { all: useOf(ml.inkMl), byDocket: dockets && new Map(dockets) };
}

/** The same with the ink of each docket as plates have it. @param byDocket of one print */
export const inkCounted = (
  taken: ReadonlyMap<number, Taken>,
  byDocket: ReadonlyMap<number, InkUse>,
  times: number
): Map<number, Taken> =>
  new Map([...taken].map(([id, one]) => [id, { ...one, ink: timesInk(byDocket.get(id) ?? NO_INK, times) }]));

/** Shares of a docket in all that is printed together, which add up to 1 for all of them. */
export interface Shares {
  /** Of media, machine and waste: by the area that its copies take. */
  area: number;
  /** Of ink, and of what that costs: its own, and by area of what is no docket's, as marks. */
  ink: InkUse;
}

/** @param all the ink of all together, where more is known than the sum of what each takes */
export function sharesOf(taken: ReadonlyMap<number, Taken>, all = NO_INK): Map<number, Shares> {
  const list = [...taken.values()];
  const m2 = list.reduce((sum, { areaM2 }) => sum + areaM2, 0);
  const own = sumOfInk(list.map(({ ink }) => ink));
  const shareOf = (figure: keyof InkUse, ink: InkUse, area: number): number => {
    const whole = Math.max(own[figure], all[figure]);
    return whole === 0 ? area : (ink[figure] + (whole - own[figure]) * area) / whole;
  };
  return new Map(
    [...taken].map(([docket, { areaM2, ink }]) => {
      const area = m2 === 0 ? 0 : areaM2 / m2;
      return [docket, { area, ink: { ml: shareOf('ml', ink, area), cost: shareOf('cost', ink, area) } }];
    })
  );
}

/** A docket's part of what a run costs. Nothing where none of it lies there. */
export function shareOf(
  docket: number,
  taken: ReadonlyMap<number, Taken>,
  costs: RunCosts,
  wasteShare: number,
  all: InkUse
): { cost: number; waste: number } | undefined {
  const shares = sharesOf(taken, all).get(docket);
  if (!shares) return undefined;
  return {
    cost: (costs.media + costs.time) * shares.area + costs.ink * shares.ink.cost,
    waste: costs.media * wasteShare * shares.area
  };
}
