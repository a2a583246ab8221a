import { drawingChoices, type Piece } from '../artwork/piece';
import type { Preparation } from '../artwork/preparation';
import { inNeutral, type Amounts, type Flat, type Letters, type Mark } from '../marks/print-list';
import { PROCESS_CHANNELS, type InkSet } from '../inks/ink-set';
import type { LaidLayer } from '../inks/stack';
import type { PieceSource, PlacedPiece } from '../layout/pieces';
import { sizeBeyond, type Box } from '../geometry/box';
import { chain, translation, turnedInPlace, turnedSize, type Matrix } from '../geometry/matrix';
import { MM_PER_INCH, pixels } from '../units/length';
import type { PlateLayout } from './plate-file';

/** All that the plates of a run depend on, as plain data. */
export interface RipPlan {
  widthMm: number;
  lengthMm: number;
  dpi: { x: number; y: number };
  /** Of the machine. */
  inks: InkSet;
  /** From the media upwards; colour and then every other ink of the machine where nothing is said. */
  layers?: LaidLayer[];
  /** The most of all inks of the profile together, shares of the fullest drop; nothing for a chart that looks for it. */
  totalInk: number | null;
  sources: PieceSource[];
  pieces: PlacedPiece[];
  marks: Mark[];
  /** Rectangles of plain ink, not touched by any profile: what charts, crop marks and colour bars are made of. */
  flats?: Flat[];
  /** Eyelets, and marks for people; cutters do not look for them. */
  rings?: Mark[];
  letters?: Letters[];
}

/** The plan with its marks for people in the condition's own black in place of all inks. */
export const marksInNeutral = (plan: RipPlan, neutral: Amounts): RipPlan => ({
  ...plan,
  ...(plan.flats && { flats: inNeutral(plan.flats, neutral) }),
  ...(plan.rings && { rings: inNeutral(plan.rings, neutral) }),
  ...(plan.letters && { letters: inNeutral(plan.letters, neutral) })
});

/** The layers that a run is printed in, from the media upwards. */
export function layersOf({ layers, inks }: Pick<RipPlan, 'layers' | 'inks'>): LaidLayer[] {
  if (layers) return layers;
  const others = inks.flatMap(({ role }) => (role === 'colour' || role === 'light' ? [] : [role]));
  return ['colour' as const, ...new Set(others)].map((ink) => ({ ink }));
}

/** A plate: an ink as one layer has it. */
export interface Plane {
  /** Which of the plan's inks and layers. */
  ink: number;
  layer: number;
}

/** Every ink of every layer, in the order in which they are laid down. */
export function planesOf(plan: Pick<RipPlan, 'layers' | 'inks'>): Plane[] {
  return layersOf(plan).flatMap((laid, layer) =>
    plan.inks.flatMap(({ role }, ink) => ((role === 'light' ? 'colour' : role) === laid.ink ? [{ ink, layer }] : []))
  );
}

/** Scales that differ by less are one: sizes of panels are rounded. */
const SCALE_STEPS = 1e6;

/** By source the first whose drawings serve it too: panels of a wall show parts of one page, which is drawn once. */
export function drawnAlike({ sources }: Pick<RipPlan, 'sources'>): number[] {
  const first = new Map<string, number>();
  return sources.map((source, index) => {
    const { file, page, intent, sources: profiles, overlays, stack } = source;
    const choices = (piece: Piece) => {
      const { enlargement, ...rest } = drawingChoices(piece);
      // What of the page is shown, and how it lies, is no matter of its drawing.
      const drawn: Partial<Preparation> = { ...rest };
      for (const key of ['region', 'turn', 'mirror', 'bleed'] as const) delete drawn[key];
      return { ...drawn, enlargement: Math.round(enlargement * SCALE_STEPS) };
    };
    const own = stack?.layers.flatMap((layer) =>
      layer.own ? [[layer.id, layer.own.page, choices({ ...source, ...layer.own })]] : []
    );
    const key = JSON.stringify([file, page, intent, profiles, overlays, choices(source), own, stack?.marks]);
    const known = first.get(key) ?? index;
    first.set(key, known);
    return known;
  });
}

/** The box of a piece with its bleed. */
export function printedSize(source: Omit<Piece, 'prepare'>, turn: number): { width: number; height: number } {
  const { width, height } = sizeBeyond(source.widthMm, source.heightMm, source.bleed);
  return turnedSize(width, height, turn);
}

/** Where a piece lies in pixels, on whole ones, so that every copy of it is the same. */
export function pieceRect(plan: RipPlan, piece: PlacedPiece): Box {
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
  const laid = chain(translation(source.bleed.left, source.bleed.top), turnedInPlace(upright.width, upright.height, piece.turn));
  return chain(laid, [(rect.width * mmX) / size.width, 0, 0, (rect.height * mmY) / size.height, rect.x * mmX, rect.y * mmY]);
}

export const ROWS_PER_STRIP = 64;

/** Bytes of a composed pixel: one for each channel of the profile. */
export const PIXEL_BYTES = PROCESS_CHANNELS.length;
/** Bytes of drawn pixels that one band may take in a thread. */
const BAND_BYTES = 96e6;

export function plateLayout(plan: RipPlan): PlateLayout {
  const planes = planesOf(plan);
  return {
    // Loops take 64 pixels at a time; the rest is white.
    widthPx: Math.ceil(pixels(plan.widthMm, plan.dpi.x) / 64) * 64,
    heightPx: Math.max(1, pixels(plan.lengthMm, plan.dpi.y)),
    dpi: plan.dpi,
    inks: planes.map(({ ink }) => plan.inks[ink]!.name),
    layers: planes.map(({ layer }) => layer),
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
  const strips = Math.max(1, Math.floor(BAND_BYTES / (layout.widthPx * PIXEL_BYTES * layout.rowsPerStrip)));
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
    .filter(({ key }) => (bytes += spriteBytes(plan, key)) <= MOST_SPRITES_BYTES)
    .map(({ key }) => key);
}

/** Bytes of a drawn pixel by layer of a source: of colour all channels, of any other ink how much of it. */
export function layerBytes(plan: RipPlan, source: number): number[] {
  const stack = plan.sources[source]?.stack;
  return stack ? stack.layers.map(({ ink }) => (ink === 'colour' ? PIXEL_BYTES : 1)) : [PIXEL_BYTES];
}

/** Room for a sprite: its layers one after the other. */
export function spriteBytes(plan: RipPlan, { source, width, height }: SpriteKey): number {
  return width * height * layerBytes(plan, source).reduce((sum, bytes) => sum + bytes, 0);
}
