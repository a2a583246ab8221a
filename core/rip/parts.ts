import type { Drawing } from '../artwork/drawing';
import { drawOver, drawPiece } from '../artwork/piece';
import type { Box } from '../geometry/box';
import { cellsOf, type Cells } from '../geometry/cells';
import { apply } from '../geometry/matrix';
import * as mupdf from '../interpreter/interpreter';
import type { PlacedPiece } from '../layout/pieces';
import { MM_PER_INCH } from '../units/length';
import { pieceRect, pieceToRun, PIXEL_BYTES, type Band, type RipPlan, type SpriteKey } from './plan';

/** The artwork of a band, drawn into the profile's channels. */

/** An artwork drawn once: rows of composed pixels, shared by all threads. */
export interface Sprite {
  key: SpriteKey;
  pixels: Uint8Array;
}

/** What of a piece lies in a band. */
export interface Part {
  /** The piece's box in pixels of the run. */
  rect: Box;
  /** Asked for anew at each use: the interpreter's memory may have moved. */
  pixels: () => Uint8Array | Uint8ClampedArray;
  /** First row of the run that `pixels` holds. */
  top: number;
  /** Where it prints of its box, where that is not all. */
  clip: Cells | undefined;
  pixmap?: mupdf.Pixmap;
}

/** A drawing that a band needs: an artwork page, or an overlay in that page's inks. */
export interface Needed {
  source: number;
  overlay?: number | undefined;
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

/** Draws an artwork whole, for placing it many times. */
export function drawSprite(plan: RipPlan, key: SpriteKey, drawing: Drawing, into: Uint8Array): void {
  const rows = Math.max(64, Math.floor(STRETCH_BYTES / (key.width * PIXEL_BYTES)));
  const grid = { x: 0, y: 0, width: key.width, height: key.height, turn: key.turn };
  for (let y = 0; y < key.height; y += rows) {
    const pixmap = drawPiece(sourceOf(plan, key.source), drawing, grid, y, Math.min(key.height, y + rows));
    into.set(pixmap.getPixels(), y * key.width * PIXEL_BYTES);
    pixmap.destroy();
  }
}

const spriteOf = (piece: PlacedPiece, sprites: readonly Sprite[]) =>
  sprites.find(({ key }) => key.source === piece.source && key.turn === piece.turn);

/** Draws the artwork of bands of one run. */
export class PartDrawer {
  readonly #plan: RipPlan;
  readonly #clips = new Map<string, Cells>();

  constructor(plan: RipPlan) {
    this.#plan = plan;
  }

  /** The drawings that a band needs: of artworks that are no sprites, and of overlays. */
  needed(band: Band, sprites: readonly Sprite[]): Needed[] {
    const all = new Map<string, Needed>();
    for (const piece of this.#plan.pieces) {
      if (!this.#rows(piece, band)) continue;
      const { source, overlay } = piece;
      if (!spriteOf(piece, sprites)) all.set(`${source}`, { source });
      if (overlay !== undefined) all.set(`${source}/${overlay}`, { source, overlay });
    }
    return [...all.values()];
  }

  /** What of the run's pieces lies in the band; pixmaps in it are the caller's to destroy. */
  draw(band: Band, sprites: readonly Sprite[], drawingOf: DrawingOf): Part[] {
    const parts: Part[] = [];
    for (const piece of this.#plan.pieces) {
      const rows = this.#rows(piece, band);
      if (!rows) continue;
      const { rect, top, bottom } = rows;
      const clip = this.#clip(piece, rect);
      const sprite = spriteOf(piece, sprites);
      if (sprite && piece.overlay === undefined) {
        parts.push({ rect, pixels: () => sprite.pixels, top: rect.y, clip });
        continue;
      }
      const { source, overlay } = piece;
      const grid = { ...rect, turn: piece.turn };
      const over = overlay === undefined ? undefined : drawingOf({ source, overlay });
      const pixmap =
        sprite && over
          ? ofSprite(sprite, over, rect, top, bottom)
          : drawPiece(sourceOf(this.#plan, source), drawingOf({ source }), grid, top, bottom);
      if (over) drawOver(pixmap, sourceOf(this.#plan, source), over, grid);
      parts.push({ rect, pixels: () => pixmap.getPixels(), top, pixmap, clip });
    }
    return parts;
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
