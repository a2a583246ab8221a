import type { Piece } from '../artwork/piece';
import type { Flat } from '../charts/chart-layout';
import type { RenderingIntent } from '../colour/icc-write';
import type { Inks } from '../colour/separation';
import { chain, translation, turnedInPlace, turnedSize, type Matrix, type Point } from '../geometry/matrix';
import { MM_PER_INCH, pixels } from '../units/length';
import type { PlateLayout } from './plate-file';

/** An artwork page at its finished size, as a run needs it. */
export interface PieceSource extends Piece {
  /** Which file and page; the caller knows where it is. */
  file: string;
  page: number;
  intent: RenderingIntent;
  /** Where it prints, in mm of the finished size (even-odd), where that is not all of its rectangle. */
  clip?: Point[][];
  /** Names of the profiles that its colours are read with where it has none of its own; the caller knows where they are. */
  sources: { rgb: string; cmyk: string; grey: string };
}

export interface PlacedPiece {
  source: number;
  /** Top left corner of what prints (bleed included), mm from the roll's left edge and the start of the run. */
  x: number;
  y: number;
  /** The box of the turned piece begins there; degrees clockwise. */
  turn: number;
}

export const MARK_SHAPES = ['disc', 'square', 'ring', 'cross'] as const;
export type MarkShape = (typeof MARK_SHAPES)[number];

/** What a cutter's camera looks for, or an eyelet's place: plain black where nothing else is said. */
export interface Mark {
  x: number;
  y: number;
  diameter: number;
  shape?: MarkShape;
  /** Of the line of a ring or cross; a quarter of the diameter where it is not said. */
  weight?: number;
  inks?: Inks;
}

/** A line of text in plain ink; `x`, `y` are the top left of its capitals before it is turned about that place. */
export interface Letters {
  x: number;
  y: number;
  heightMm: number;
  text: string;
  turn: number;
  inks: Inks;
}

/** All that the plates of a run depend on, as plain data. */
export interface RipPlan {
  widthMm: number;
  lengthMm: number;
  dpi: { x: number; y: number };
  sources: PieceSource[];
  pieces: PlacedPiece[];
  marks: Mark[];
  /** Rectangles of plain ink, not touched by any profile: what charts, crop marks and colour bars are made of. */
  flats?: Flat[];
  /** Eyelets, and marks for people; cutters do not look for them. */
  rings?: Mark[];
  letters?: Letters[];
}

/** Where a piece lies in pixels, on whole ones, so that every copy of it is the same. */
export interface PixelRect {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** The box of a piece with its bleed. */
export function printedSize(source: Omit<Piece, 'prepare'>, turn: number): { width: number; height: number } {
  return turnedSize(source.widthMm + 2 * source.bleedMm, source.heightMm + 2 * source.bleedMm, turn);
}

export function pieceRect(plan: RipPlan, piece: PlacedPiece): PixelRect {
  const source = plan.sources[piece.source];
  if (!source) throw new RangeError(`There is no artwork ${piece.source} in this run.`);
  const { width, height } = printedSize(source, piece.turn);
  return {
    x: pixels(piece.x, plan.dpi.x),
    y: pixels(piece.y, plan.dpi.y),
    width: Math.max(1, pixels(width, plan.dpi.x)),
    height: Math.max(1, pixels(height, plan.dpi.y))
  };
}

/**
 * Finished size of a piece (mm, at the docket's size, y down) → run, by the whole pixels that the piece is printed on,
 * so that a cut follows its print to less than a pixel.
 */
export function pieceToRun(plan: RipPlan, piece: PlacedPiece): Matrix {
  const source = plan.sources[piece.source];
  if (!source) throw new RangeError(`There is no artwork ${piece.source} in this run.`);
  const rect = pieceRect(plan, piece);
  const upright = printedSize(source, 0);
  const size = printedSize(source, piece.turn);
  const mmX = MM_PER_INCH / plan.dpi.x;
  const mmY = MM_PER_INCH / plan.dpi.y;
  const laid = chain(translation(source.bleedMm, source.bleedMm), turnedInPlace(upright.width, upright.height, piece.turn));
  return chain(laid, [(rect.width * mmX) / size.width, 0, 0, (rect.height * mmY) / size.height, rect.x * mmX, rect.y * mmY]);
}

export const INK_NAMES = ['Cyan', 'Magenta', 'Yellow', 'Black'];
export const ROWS_PER_STRIP = 64;

/** Bytes of drawn pixels that one band may take in a thread. */
const BAND_BYTES = 96e6;

export function plateLayout(plan: RipPlan): PlateLayout {
  return {
    // Loops take 64 pixels at a time; the rest is white.
    widthPx: Math.ceil(pixels(plan.widthMm, plan.dpi.x) / 64) * 64,
    heightPx: Math.max(1, pixels(plan.lengthMm, plan.dpi.y)),
    dpi: plan.dpi,
    inks: INK_NAMES,
    rowsPerStrip: ROWS_PER_STRIP
  };
}

export interface Band {
  index: number;
  y: number;
  rows: number;
}

/** Bands as tall as memory allows, since short ones repeat work; each begins on a strip. */
export function bandsOf(layout: PlateLayout): Band[] {
  const strips = Math.max(1, Math.floor(BAND_BYTES / (layout.widthPx * 4 * layout.rowsPerStrip)));
  // Several bands a thread even in a short run, so that no thread waits long for the other.
  const fair = Math.max(4, Math.ceil(layout.heightPx / layout.rowsPerStrip / 8));
  const rows = Math.min(strips, fair) * layout.rowsPerStrip;
  return Array.from({ length: Math.ceil(layout.heightPx / rows) }, (_, index) => ({
    index,
    y: index * rows,
    rows: Math.min(rows, layout.heightPx - index * rows)
  }));
}

/** Artwork that is worth drawing once: placed more than once, and small. */
const MOST_SPRITE_PIXELS = 24e6;
const MOST_SPRITES_BYTES = 320e6;

export interface SpriteKey {
  source: number;
  turn: number;
  width: number;
  height: number;
}

export function spritesOf(plan: RipPlan): SpriteKey[] {
  const counts = new Map<string, { key: SpriteKey; count: number }>();
  for (const piece of plan.pieces) {
    const rect = pieceRect(plan, piece);
    const name = `${piece.source}/${piece.turn}`;
    const entry = counts.get(name) ?? {
      key: { source: piece.source, turn: piece.turn, width: rect.width, height: rect.height },
      count: 0
    };
    entry.count++;
    counts.set(name, entry);
  }
  let bytes = 0;
  return [...counts.values()]
    .filter(({ key, count }) => count > 1 && key.width * key.height <= MOST_SPRITE_PIXELS)
    .sort((p, q) => q.count - p.count)
    .filter(({ key }) => (bytes += key.width * key.height * 4) <= MOST_SPRITES_BYTES)
    .map(({ key }) => key);
}
