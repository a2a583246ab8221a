import { chain, invert, scaling, translation, type Matrix } from '../geometry/matrix';
import type { Box } from '../geometry/box';
import type { Adjustment } from '../colour/adjustment';
import type { InkedColour } from '../colour/named-inks';
import type { Triple } from '../colour/lab';

/** Where bleed comes from: the page has it, or it is made of the edge, or it is a flat colour (sRGB, 0…255). */
export type Bleed = { from: 'page' | 'mirror' | 'stretch' } | { from: 'colour'; colour: [number, number, number] };

/** What of a page prints in named colours of the shop. */
export interface NamedPlaces {
  /** By the name of a spot colour. */
  spots: Record<string, InkedColour>;
  /** Flat colours that are within so much (CIEDE2000) of a colour; the first that fits counts. */
  flats: { lab: Triple; within: number; to: InkedColour }[];
}

export const ENLARGED = ['as it suits', 'smooth', 'crisp'] as const;
export type Enlarged = (typeof ENLARGED)[number];

/** All that is done to an artwork page on its way to the finished size; the file itself is never changed. */
export interface Preparation {
  /** What of the page becomes the finished size: mm from the trim box's corner. */
  region: Box;
  /** Degrees clockwise. */
  turn: 0 | 90 | 180 | 270;
  /** Left and right change places, before the turn. */
  mirror: boolean;
  bleed: Bleed;
  /** Spot colours and layers that do not print, by name. */
  leftOut: { spots: string[]; layers: string[]; fields?: boolean | undefined };
  /** How pictures look that are enlarged beyond their pixels; `as it suits` keeps codes and line art crisp, and photographs smooth. */
  enlarged: Enlarged;
  /** Dark lettering is printed with black alone. */
  blackText: boolean;
  /** Grey pictures and gradients are printed with black alone, as grey lettering, lines and areas are. */
  blackPictures: boolean;
  /** What overprints in the file lets through what lies beneath it. */
  overprint: boolean;
  /** Large areas of black alone are printed with all inks. */
  richBlack: boolean;
  /** Lines thinner than this at the finished size are printed this thick, mm; 0 leaves them. */
  thinnestMm: number;
  named?: NamedPlaces | undefined;
  /** Of its colours before the inks, and of its inks: by channel of the profile 256 bytes. Named colours keep theirs. */
  adjustment?: Adjustment | undefined;
  tone?: readonly (readonly number[])[] | undefined;
}

/** A page's trim box as it is. */
export const wholePage = (
  page: { widthMm: number; heightMm: number },
  leftOut: Preparation['leftOut'] = { spots: [], layers: [] }
): Preparation => ({
  region: { x: 0, y: 0, width: page.widthMm, height: page.heightMm },
  turn: 0,
  mirror: false,
  bleed: { from: 'page' },
  enlarged: 'as it suits',
  leftOut,
  blackText: false,
  blackPictures: false,
  overprint: true,
  richBlack: false,
  thinnestMm: 0
});

export interface FinishedSize {
  widthMm: number;
  heightMm: number;
}

/** The size of a preparation's region as it stands: a quarter turn swaps its sides. */
export function uprightSize({ region, turn }: Pick<Preparation, 'region' | 'turn'>): FinishedSize {
  const lying = turn === 90 || turn === 270;
  return lying ? { widthMm: region.height, heightMm: region.width } : { widthMm: region.width, heightMm: region.height };
}

/** Page (mm from the trim box's corner) → finished size (mm from its corner). */
export function pageToFinished(preparation: Pick<Preparation, 'region' | 'turn' | 'mirror'>, size: FinishedSize): Matrix {
  const { region, turn, mirror } = preparation;
  const { width: w, height: h } = region;
  const moved = translation(-region.x, -region.y);
  const faced: Matrix = mirror ? chain(moved, [-1, 0, 0, 1, w, 0]) : moved;
  const turns: Record<Preparation['turn'], Matrix> = {
    0: [1, 0, 0, 1, 0, 0],
    90: [0, 1, -1, 0, h, 0],
    180: [-1, 0, 0, -1, w, h],
    270: [0, -1, 1, 0, 0, w]
  };
  const upright = uprightSize(preparation);
  return chain(chain(faced, turns[turn]), scaling(size.widthMm / upright.widthMm, size.heightMm / upright.heightMm));
}

/** A piece as it reads → as it is printed, mm of the finished size: mirrored with its artwork, which is so before it is turned. */
export function readToFinished(
  { widthMm, heightMm }: FinishedSize,
  { turn, mirror }: Pick<Preparation, 'turn' | 'mirror'>
): Matrix {
  if (!mirror) return [1, 0, 0, 1, 0, 0];
  return turn % 180 === 0 ? [-1, 0, 0, 1, widthMm, 0] : [1, 0, 0, -1, 0, heightMm];
}

/** How much larger things are at the finished size than on the page: the mean of both directions. */
export function enlargement(preparation: Pick<Preparation, 'region' | 'turn'>, size: FinishedSize): number {
  const upright = uprightSize(preparation);
  return Math.sqrt((size.widthMm / upright.widthMm) * (size.heightMm / upright.heightMm));
}

/** The other way round. */
export const finishedToPage = (preparation: Pick<Preparation, 'region' | 'turn' | 'mirror'>, size: FinishedSize): Matrix =>
  invert(pageToFinished(preparation, size));
