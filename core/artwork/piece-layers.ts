import { inkLook, type ColourLook } from './colour-look';
import { coverReach, Covers } from './cover';
import type { Drawing } from './drawing';
import { drawOver, drawPiece, type Piece, type PieceGrid } from './piece';
import { PROCESS_CHANNELS } from '../inks/ink-set';
import type { ExtraInk, Layer } from '../inks/stack';
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
  draw(source: Piece, layers: readonly Layer[], drawings: LayerDrawings, grid: PieceGrid, top: number, bottom: number) {
    const { dpi, channels, kernels } = this.#measure;
    const perMm = { x: dpi.x / MM_PER_INCH, y: dpi.y / MM_PER_INCH };
    const reach = coverReach(layers, perMm);
    // Rows around them, for what looks around itself.
    const [first, last] = [Math.max(grid.y, top - reach), Math.min(grid.y + grid.height, bottom + reach)];
    const height = last - first;
    const colour = (mirrored: boolean) => {
      const turned = mirrored ? { ...source, prepare: { ...source.prepare, mirror: !source.prepare.mirror } } : source;
      const pixmap = drawPiece(turned, drawings.page, grid, first, last, true);
      if (drawings.over) drawOver(pixmap, turned, drawings.over, grid);
      const taken = takenApart(pixmap.getPixels(), grid.width * height);
      pixmap.destroy();
      return taken;
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
    return layers.map((layer) => {
      if (layer.ink === 'colour') return cut(drawn.get(layer.mirrored)!.colours, PIXEL_BYTES);
      return cut(covers.amounts(layer, channels[layer.ink] ?? 1), 1);
    });
  }

  #look(drawing: Drawing): ColourLook {
    const known = this.#looks.get(drawing) ?? inkLook(drawing.target);
    this.#looks.set(drawing, known);
    return known;
  }
}

/** Inks, and how far each pixel is painted, of pixels that have both. */
function takenApart(pixels: Uint8Array | Uint8ClampedArray, count: number): { colours: Uint8Array; painted: Uint8Array } {
  const colours = new Uint8Array(count * PIXEL_BYTES);
  const painted = new Uint8Array(count);
  for (let i = 0, from = 0, to = 0; i < count; i++) {
    colours[to++] = pixels[from++]!;
    colours[to++] = pixels[from++]!;
    colours[to++] = pixels[from++]!;
    colours[to++] = pixels[from++]!;
    painted[i] = pixels[from++]!;
  }
  return { colours, painted };
}
