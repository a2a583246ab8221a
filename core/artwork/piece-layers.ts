import { inkLook, type ColourLook } from './colour-look';
import { coverReach, Covers } from './cover';
import type { Drawing } from './drawing';
import { drawOver, drawPiece, insideOf, isGrounded, type Piece, type PieceGrid } from './piece';
import type { Preparation } from './preparation';
import { evenSides, fartherSides, reachTo } from '../geometry/box';
import { PROCESS_CHANNELS } from '../inks/ink-set';
import type { ExtraInk, Layer } from '../inks/stack';
import type * as mupdf from '../interpreter/interpreter';
import type { Kernels } from '../kernels/kernels';
import { MM_PER_INCH } from '../units/length';
import type { Press } from '../media/press';

/** The layers of a piece that has more than its colour: drawn once, and taken apart. */

/** Another page that a layer of colour shows, and how it is prepared. */
export interface OwnPicture {
  page: number;
  prepare: Preparation;
}

/** A layer with what is known of it where it is drawn. */
export type PieceLayer = Layer & { own?: OwnPicture | undefined };

/** A piece with room around it for layers that print farther than its colour: so far beyond the finished size. */
export function withMargin(piece: Piece, marginMm: number): Piece {
  const margin = evenSides(marginMm);
  const { bleed } = piece;
  return reachTo(bleed, margin) ? piece : { ...piece, bleed: fartherSides(bleed, margin), colourBleed: bleed };
}

/** What it is drawn from. */
export interface LayerDrawings {
  page: Drawing;
  /** By layer that shows another page. */
  own?: Readonly<Record<number, Drawing>>;
  over?: OverDrawings | undefined;
  marked: Partial<Record<ExtraInk, Drawing>>;
}

/** What lies over a piece: its colours, and by ink what is marked of it. */
export interface OverDrawings {
  colour: Drawing;
  marked: Partial<Record<ExtraInk, Drawing>>;
}

/** Rows of each layer, asked for anew at each use: the interpreter's memory may have moved. */
export interface DrawnLayers {
  layers: (() => Uint8Array)[];
  /** Gives the memory back. */
  release: () => void;
}

interface TakenApart {
  painted: Uint8Array;
  pixmap: mupdf.Pixmap;
  colours: () => Uint8Array;
}

/** What they are drawn for. */
export interface LayerMeasure {
  dpi: { x: number; y: number };
  /** Channels that the machine has of each ink. */
  channels: Press['channels'];
  kernels: Kernels;
}

/** Bytes of a pixel of colour. */
const PIXEL_BYTES = PROCESS_CHANNELS.length;

export class LayerDrawer {
  readonly #measure: LayerMeasure;
  readonly #looks = new Map<Drawing, ColourLook>();

  constructor(measure: LayerMeasure) {
    this.#measure = measure;
  }

  /**
   * Rows `top`…`bottom` of a piece's box by layer of its stack: four bytes a pixel of colour, one of any other ink.
   *
   * @param grid the piece's box in pixels
   */
  draw(
    source: Piece,
    layers: readonly PieceLayer[],
    drawings: LayerDrawings,
    grid: PieceGrid,
    top: number,
    bottom: number
  ): DrawnLayers {
    const { dpi, channels, kernels } = this.#measure;
    const perMm = { x: dpi.x / MM_PER_INCH, y: dpi.y / MM_PER_INCH };
    const reach = coverReach(layers, perMm);
    // Rows around them, for what looks around itself.
    const [first, last] = [Math.max(grid.y, top - reach), Math.min(grid.y + grid.height, bottom + reach)];
    const height = last - first;
    const colourBleed = source.colourBleed ?? source.bleed;
    const within = insideOf(source, colourBleed, grid, first, last);
    const colour = ({ mirrored, own, id }: Pick<PieceLayer, 'mirrored' | 'own' | 'id'>): TakenApart => {
      const drawing = own ? drawings.own![id]! : drawings.page;
      const prepare = own?.prepare ?? source.prepare;
      const turned = { ...source, prepare: { ...prepare, mirror: prepare.mirror !== mirrored } };
      // Upright on a ground that fills it every pixel is painted.
      const grounded = !within && grid.turn % 90 === 0 && isGrounded(turned, drawing);
      const pixmap = drawPiece(turned, drawing, grid, first, last, !grounded);
      if (drawings.over && !own) drawOver(pixmap, turned, drawings.over.colour, grid);
      const count = grid.width * height;
      if (grounded) return { painted: new Uint8Array(count).fill(255), pixmap, colours: () => plainBytes(pixmap) };
      const apart = takenApart(pixmap, count);
      if (within) {
        keepWithin(within, apart.colours(), PIXEL_BYTES);
        keepWithin(within, apart.painted, 1);
      }
      return apart;
    };
    // Layers of colour that show the same are drawn once.
    const pictureOf = ({ mirrored, own, id }: PieceLayer) => (own ? `${id}` : mirrored ? 'mirrored' : 'docket');
    const drawn = new Map<string, TakenApart>();
    for (const layer of layers)
      if (layer.ink === 'colour' && !drawn.has(pictureOf(layer))) drawn.set(pictureOf(layer), colour(layer));
    if (drawn.size === 0) drawn.set('docket', colour({ mirrored: false, own: undefined, id: 0 }));
    const pictures = [...drawn.values()];
    const painted = pictures.reduce<Uint8Array | undefined>(
      (all, { painted: own }) => (all ? all.map((v, i) => Math.max(v, own[i]!)) : own),
      undefined
    )!;
    const marked = Object.fromEntries(
      Object.entries(drawings.marked).map(([ink, drawing]) => {
        // A bleed of a flat colour is no mark.
        const flat = source.prepare.bleed.from === 'colour';
        const piece = flat ? { ...source, prepare: { ...source.prepare, bleed: { from: 'page' as const } } } : source;
        const pixmap = drawPiece(piece, drawing, grid, first, last);
        const over = drawings.over?.marked[ink as ExtraInk];
        if (over) drawOver(pixmap, piece, over, grid);
        const plane = Uint8Array.from(pixmap.getPixels(), (grey) => 255 - grey);
        pixmap.destroy();
        if (within) keepWithin(within, plane, 1);
        return [ink, plane];
      })
    );
    const covers = new Covers(
      layers,
      {
        width: grid.width,
        height,
        painted,
        colours: (drawn.get('docket') ?? pictures[0]!).colours,
        inside: (mm) => insideOf(source, mm === undefined ? colourBleed : evenSides(mm), grid, first, last),
        marked
      },
      { perMm, kernels, look: () => this.#look(drawings.page) }
    );
    const cut = (pixels: Uint8Array, bytes: number) =>
      pixels.subarray((top - first) * grid.width * bytes, (bottom - first) * grid.width * bytes);
    return {
      layers: layers.map((layer) => {
        if (layer.ink === 'colour') {
          const { colours } = drawn.get(pictureOf(layer))!;
          return () => cut(colours(), PIXEL_BYTES);
        }
        const plane = cut(covers.amounts(layer, channels[layer.ink] ?? 1), 1);
        return () => plane;
      }),
      release: () => drawn.forEach(({ pixmap }) => pixmap.destroy())
    };
  }

  #look(drawing: Drawing): ColourLook {
    const known = this.#looks.get(drawing) ?? inkLook(drawing.target);
    this.#looks.set(drawing, known);
    return known;
  }
}

/** Leaves what is within, and nothing beside it. */
function keepWithin(within: Uint8Array, pixels: Uint8Array, bytes: number): void {
  for (let i = 0; i < within.length; i++) if (within[i] === 0) pixels.fill(0, i * bytes, (i + 1) * bytes);
}

/** One kind of view for all loops. */
function plainBytes(pixmap: mupdf.Pixmap): Uint8Array {
  const own = pixmap.getPixels();
  return new Uint8Array(own.buffer, own.byteOffset, own.length);
}

/**
 * Inks, and how far each pixel is painted, of pixels that have both. The inks move together where they are: nothing as large
 * is made for them.
 */
function takenApart(pixmap: mupdf.Pixmap, count: number): TakenApart {
  const pixels = plainBytes(pixmap);
  const painted = new Uint8Array(count);
  // Four at a time where the memory lies for it, which it does but for odd chances.
  if (pixels.byteOffset % 4 === 0) {
    const words = new Uint32Array(pixels.buffer, pixels.byteOffset, count);
    for (let i = 0, from = 0; i < count; i++, from += 5) {
      const word = pixels[from]! | (pixels[from + 1]! << 8) | (pixels[from + 2]! << 16) | (pixels[from + 3]! << 24);
      painted[i] = pixels[from + 4]!;
      words[i] = word;
    }
  } else
    for (let i = 0, from = 0; i < count; i++, from += 5) {
      painted[i] = pixels[from + 4]!;
      for (let k = 0; k < PIXEL_BYTES; k++) pixels[i * PIXEL_BYTES + k] = pixels[from + k]!;
    }
  return { painted, pixmap, colours: () => plainBytes(pixmap).subarray(0, count * PIXEL_BYTES) };
}
