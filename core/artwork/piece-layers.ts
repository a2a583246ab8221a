import { inkLook, type ColourLook } from './colour-look';
import { coverReach, Covers } from './cover';
import type { Drawing } from './drawing';
import { drawOver, drawPiece, isGrounded, type Piece, type PieceGrid } from './piece';
import { PROCESS_CHANNELS } from '../inks/ink-set';
import type { ExtraInk, Layer } from '../inks/stack';
import type * as mupdf from '../interpreter/interpreter';
import type { Kernels } from '../kernels/kernels';
import { MM_PER_INCH } from '../units/length';
import type { Press } from '../media/press';

/** The layers of a piece that has more than its colour: drawn once, and taken apart. */

/** What it is drawn from. */
export interface LayerDrawings {
  page: Drawing;
  over?: Drawing | undefined;
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
    layers: readonly Layer[],
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
    const colour = (mirrored: boolean) => {
      const turned = mirrored ? { ...source, prepare: { ...source.prepare, mirror: !source.prepare.mirror } } : source;
      // Upright on a ground that fills it every pixel is painted.
      const grounded = grid.turn % 90 === 0 && isGrounded(turned, drawings.page);
      const pixmap = drawPiece(turned, drawings.page, grid, first, last, !grounded);
      if (drawings.over) drawOver(pixmap, turned, drawings.over, grid);
      const count = grid.width * height;
      return grounded
        ? { painted: new Uint8Array(count).fill(255), pixmap, colours: () => plainBytes(pixmap) }
        : takenApart(pixmap, count);
    };
    const sides = [...new Set(layers.flatMap(({ ink, mirrored }) => (ink === 'colour' ? [mirrored] : [])))];
    const drawn = new Map((sides.length > 0 ? sides : [false]).map((mirrored) => [mirrored, colour(mirrored)]));
    const [front, back] = [...drawn.values()];
    const painted = back ? front!.painted.map((v, i) => Math.max(v, back.painted[i]!)) : front!.painted;
    const marked = Object.fromEntries(
      Object.entries(drawings.marked).map(([ink, drawing]) => {
        // A bleed of a flat colour is no mark.
        const flat = source.prepare.bleed.from === 'colour';
        const piece = flat ? { ...source, prepare: { ...source.prepare, bleed: { from: 'page' as const } } } : source;
        const pixmap = drawPiece(piece, drawing, grid, first, last);
        const plane = Uint8Array.from(pixmap.getPixels(), (grey) => 255 - grey);
        pixmap.destroy();
        return [ink, plane];
      })
    );
    const covers = new Covers(
      layers,
      { width: grid.width, height, painted, colours: (drawn.get(false) ?? front!).colours, marked },
      { perMm, kernels, look: () => this.#look(drawings.page) }
    );
    const cut = (pixels: Uint8Array, bytes: number) =>
      pixels.subarray((top - first) * grid.width * bytes, (bottom - first) * grid.width * bytes);
    return {
      layers: layers.map((layer) => {
        if (layer.ink === 'colour') {
          const { colours } = drawn.get(layer.mirrored)!;
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
