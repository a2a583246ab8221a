import type { Drawing } from '../artwork/drawing';
import { drawOver, drawPiece, type PieceGrid } from '../artwork/piece';
import { LayerDrawer, type LayerDrawings, type OverDrawings } from '../artwork/piece-layers';
import type { Box } from '../geometry/box';
import { cellsOf, type Cells } from '../geometry/cells';
import { apply } from '../geometry/matrix';
import * as mupdf from '../interpreter/interpreter';
import { isPlain, type ExtraInk } from '../inks/stack';
import type { Kernels } from '../kernels/kernels';
import type { PlacedPiece } from '../layout/pieces';
import { channelsByInk } from '../media/press';
import { MM_PER_INCH } from '../units/length';
import { layerBytes, layersOf, pieceRect, pieceToRun, PIXEL_BYTES, type Band, type RipPlan, type SpriteKey } from './plan';

/** The artwork of a band, drawn into the profile's channels, and what lies under and over it. */

/** An artwork drawn once: rows of composed pixels, layer by layer, shared by all threads. */
export interface Sprite {
  key: SpriteKey;
  pixels: Uint8Array;
}

/** Rows of a piece as one layer of the run has them. */
export interface PartLayer {
  /** Which of the run's layers. */
  place: number;
  /** Bytes of a pixel. */
  bytes: number;
  /** Asked for anew at each use: the interpreter's memory may have moved. */
  pixels: () => Uint8Array | Uint8ClampedArray;
}

/** What of a piece lies in a band. */
export interface Part {
  /** The piece's box in pixels of the run. */
  rect: Box;
  layers: PartLayer[];
  /** First row of the run that they hold. */
  top: number;
  /** Where it prints of its box, where that is not all. */
  clip: Cells | undefined;
  /** What becomes of its amounts of ink, by channel of the profile 256 bytes; nothing where they stay. */
  tone?: readonly (readonly number[])[] | undefined;
  /** Gives the memory back that it was drawn in. */
  release?: () => void;
}

/** A drawing that a band needs: an artwork page, an overlay in that page's inks, or what the page marks for an ink. */
export interface Needed {
  source: number;
  overlay?: number | undefined;
  marked?: ExtraInk | undefined;
  /** The layer that shows a page of its own. */
  layer?: number | undefined;
}

/** Gives a drawing; called when a band needs it. */
export type DrawingOf = (needed: Needed) => Drawing;

/** Rows of a sprite are drawn in stretches of about so many bytes. */
const STRETCH_BYTES = 24e6;

function sourceOf(plan: RipPlan, index: number) {
  const source = plan.sources[index];
  if (!source) throw new RangeError(`There is no artwork ${index} in this run.`);
  return source;
}

const spriteOf = (piece: PlacedPiece, sprites: readonly Sprite[]) =>
  sprites.find(({ key }) => key.source === piece.source && key.turn === piece.turn);

/** Draws the artwork of bands of one run. */
export class PartDrawer {
  readonly #plan: RipPlan;
  readonly #layered: LayerDrawer;
  /** Where plain colour goes. */
  readonly #colour: number;
  readonly #clips = new Map<string, Cells>();

  constructor(plan: RipPlan, kernels: Kernels) {
    this.#plan = plan;
    this.#layered = new LayerDrawer({ dpi: plan.dpi, channels: channelsByInk(plan.inks), kernels });
    this.#colour = layersOf(plan).findIndex(({ ink }) => ink === 'colour');
  }

  /** The drawings that a band needs: of artworks that are no sprites, and of overlays. */
  needed(band: Band, sprites: readonly Sprite[]): Needed[] {
    const all = new Map<string, Needed>();
    for (const piece of this.#plan.pieces) {
      if (!this.#rows(piece, band)) continue;
      const { source, overlay } = piece;
      if (!this.#sprite(piece, sprites)) for (const needed of this.neededFor(source)) all.set(JSON.stringify(needed), needed);
      if (overlay === undefined) continue;
      all.set(`${source}/${overlay}`, { source, overlay });
      for (const marked of this.#marksOf(source)) all.set(`${source}/${overlay}/${marked}`, { source, overlay, marked });
    }
    return [...all.values()];
  }

  /** The inks that the stack of an artwork has marked in it. */
  #marksOf(source: number): ExtraInk[] {
    return Object.keys(sourceOf(this.#plan, source).stack?.marks ?? {}) as ExtraInk[];
  }

  /** The drawings of an artwork: its page, and what it marks. */
  neededFor(source: number): Needed[] {
    const { stack } = sourceOf(this.#plan, source);
    const own = stack?.layers.filter((layer) => layer.own) ?? [];
    return [
      { source },
      ...this.#marksOf(source).map((marked) => ({ source, marked })),
      ...own.map(({ id }) => ({ source, layer: id }))
    ];
  }

  /** Draws an artwork whole, for placing it many times. @param into room for its layers, one after the other */
  drawSprite({ source, turn, width, height }: SpriteKey, drawingOf: DrawingOf, into: Uint8Array): void {
    const bytes = layerBytes(this.#plan, source);
    const rows = Math.max(64, Math.floor(STRETCH_BYTES / (width * Math.max(...bytes))));
    const grid = { x: 0, y: 0, width, height, turn };
    for (let y = 0; y < height; y += rows) {
      const drawn = this.#draw(source, undefined, drawingOf, grid, y, Math.min(height, y + rows));
      let from = 0;
      drawn.layers.forEach((layer, i) => {
        into.set(layer.pixels(), from + y * width * bytes[i]!);
        from += width * height * bytes[i]!;
      });
      drawn.release?.();
    }
  }

  /** What of the run's pieces lies in the band; its memory is the caller's to give back. */
  draw(band: Band, sprites: readonly Sprite[], drawingOf: DrawingOf): Part[] {
    const parts: Part[] = [];
    for (const piece of this.#plan.pieces) {
      const rows = this.#rows(piece, band);
      if (!rows) continue;
      const { rect, top, bottom } = rows;
      const clip = this.#clip(piece, rect);
      const sprite = this.#sprite(piece, sprites);
      const { source, overlay } = piece;
      const { tone } = sourceOf(this.#plan, source).prepare;
      if (sprite && overlay === undefined) {
        parts.push({ rect, layers: this.#layersOf(sprite), top: rect.y, clip, tone });
        continue;
      }
      const over = overlay === undefined ? undefined : this.#over({ source, overlay }, drawingOf);
      const grid = { ...rect, turn: piece.turn };
      if (sprite && over) {
        const pixmap = ofSprite(sprite, over.colour, rect, top, bottom);
        drawOver(pixmap, sourceOf(this.#plan, source), over.colour, grid);
        parts.push({ rect, layers: [this.#plain(pixmap)], top, release: () => pixmap.destroy(), clip, tone });
      } else parts.push({ rect, ...this.#draw(source, over, drawingOf, grid, top, bottom), top, clip, tone });
    }
    return parts;
  }

  /** What lies over a piece: in its colours, and what is marked of it. */
  #over({ source, overlay }: Needed, drawingOf: DrawingOf): OverDrawings {
    const marked = this.#marksOf(source).map((ink) => [ink, drawingOf({ source, overlay, marked: ink })]);
    return { colour: drawingOf({ source, overlay }), marked: Object.fromEntries(marked) as OverDrawings['marked'] };
  }

  /** Rows of an artwork, layer by layer. */
  #draw(
    source: number,
    over: OverDrawings | undefined,
    drawingOf: DrawingOf,
    grid: PieceGrid,
    top: number,
    bottom: number
  ): Pick<Part, 'layers' | 'release'> {
    const piece = sourceOf(this.#plan, source);
    const { stack } = piece;
    const page = drawingOf({ source });
    if (!stack || isPlain(stack)) {
      const pixmap = drawPiece(piece, page, grid, top, bottom);
      if (over) drawOver(pixmap, piece, over.colour, grid);
      return { layers: [this.#plain(pixmap, stack?.layers[0]?.place)], release: () => pixmap.destroy() };
    }
    const marked: LayerDrawings['marked'] = {};
    for (const ink of this.#marksOf(source)) marked[ink] = drawingOf({ source, marked: ink });
    const own = Object.fromEntries(
      stack.layers.flatMap(({ id, own: picture }) => (picture ? [[id, drawingOf({ source, layer: id })]] : []))
    ) as Record<number, Drawing>;
    const drawn = this.#layered.draw(piece, stack.layers, { page, over, own, marked }, grid, top, bottom);
    const bytes = layerBytes(this.#plan, source);
    return {
      layers: stack.layers.map(({ place }, i) => ({ place, bytes: bytes[i]!, pixels: drawn.layers[i]! })),
      release: drawn.release
    };
  }

  #plain(pixmap: mupdf.Pixmap, place = this.#colour): PartLayer {
    return { place, bytes: PIXEL_BYTES, pixels: () => pixmap.getPixels() };
  }

  /** A sprite serves a piece; one with an overlay only where it is colour alone. */
  #sprite(piece: PlacedPiece, sprites: readonly Sprite[]): Sprite | undefined {
    const stack = sourceOf(this.#plan, piece.source).stack;
    if (piece.overlay !== undefined && stack && !isPlain(stack)) return undefined;
    return spriteOf(piece, sprites);
  }

  #layersOf({ key, pixels }: Sprite): PartLayer[] {
    const { source, width, height } = key;
    const stack = sourceOf(this.#plan, source).stack;
    let from = 0;
    return layerBytes(this.#plan, source).map((bytes, i) => {
      const own = pixels.subarray(from, (from += width * height * bytes));
      return { place: stack?.layers[i]?.place ?? this.#colour, bytes, pixels: () => own };
    });
  }

  #rows(piece: PlacedPiece, band: Band): { rect: Box; top: number; bottom: number } | undefined {
    const rect = pieceRect(this.#plan, piece);
    const top = Math.max(rect.y, band.y);
    const bottom = Math.min(rect.y + rect.height, band.y + band.rows);
    return bottom > top ? { rect, top, bottom } : undefined;
  }

  /** The pixels of a piece's box that it prints on; the same for all copies that are turned alike. */
  #clip(piece: PlacedPiece, rect: Box): Cells | undefined {
    const { clip } = sourceOf(this.#plan, piece.source);
    if (!clip) return undefined;
    const key = `${piece.source}/${piece.turn}`;
    const kept = this.#clips.get(key);
    if (kept) return kept;
    const toRun = pieceToRun(this.#plan, piece);
    const { x: dpiX, y: dpiY } = this.#plan.dpi;
    const rings = clip.map((ring) =>
      ring.map((p) => {
        const at = apply(toRun, p);
        return {
          x: within((at.x * dpiX) / MM_PER_INCH - rect.x, rect.width),
          y: within((at.y * dpiY) / MM_PER_INCH - rect.y, rect.height)
        };
      })
    );
    const made = fromOwnCorner(cellsOf(rings, 1));
    this.#clips.set(key, made);
    return made;
  }
}

/** Rows of a sprite, to be drawn on. */
function ofSprite(sprite: Sprite, { target }: Drawing, rect: Box, top: number, bottom: number): mupdf.Pixmap {
  const pixmap = new mupdf.Pixmap(target, [rect.x, top, rect.x + rect.width, bottom], false);
  const row = rect.width * PIXEL_BYTES;
  pixmap.getPixels().set(sprite.pixels.subarray((top - rect.y) * row, (bottom - rect.y) * row));
  return pixmap;
}

const within = (v: number, most: number) => Math.min(most, Math.max(0, v));

/** Cells counted from the box's own first row and column. */
function fromOwnCorner({ cells, column, row }: { cells: Cells; column: number; row: number }): Cells {
  return {
    ...cells,
    rows: cells.rows + row,
    starts: Int32Array.from([...new Array<number>(row).fill(0), ...cells.starts]),
    from: cells.from.map((x) => x + column),
    to: cells.to.map((x) => x + column)
  };
}
