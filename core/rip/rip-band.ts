import type * as mupdf from 'mupdf';
import type { Drawing } from '../artwork/drawing';
import { drawPiece } from '../artwork/piece';
import type { Kernels } from '../kernels/kernels';
import { Screener, type Errors, type Mask, type ScreenSettings } from '../screening/screener';
import { MM_PER_INCH } from '../units/length';
import { packedAmounts, type DropCounts } from './ink';
import { pieceRect, plateLayout, type Band, type PixelRect, type PlacedPiece, type RipPlan, type SpriteKey } from './plan';
import type { PlateLayout } from './plate-file';

/** An artwork drawn once: rows of CMYK, shared by all threads. */
export interface Sprite {
  key: SpriteKey;
  pixels: Uint8Array;
}

export interface RippedBand {
  band: Band;
  /** Packed strips, one after the other: all of the first plate, then the next; `sizes` are their lengths. */
  packed: Uint8Array<ArrayBuffer>;
  sizes: number[];
  drops: DropCounts[];
  /** Mean ink of cells of 8 × 8 pixels, CMYK, 0…255. */
  overview: Uint8Array<ArrayBuffer>;
  /** The same of 64 × 64 pixels, for looking at a long run from afar. */
  coarse: Uint8Array<ArrayBuffer>;
}

/** Gives the drawing of an artwork page; called when a band needs it. */
export type DrawingOf = (source: number) => Drawing;

function sourceOf(plan: RipPlan, index: number) {
  const source = plan.sources[index];
  if (!source) throw new RangeError(`There is no artwork ${index} in this run.`);
  return source;
}

/** Draws an artwork whole, for placing it many times. */
export function drawSprite(plan: RipPlan, key: SpriteKey, drawing: Drawing, into: Uint8Array): void {
  const rows = Math.max(64, Math.floor(24e6 / (key.width * 4)));
  const grid = { x: 0, y: 0, width: key.width, height: key.height, turned: key.turned };
  for (let y = 0; y < key.height; y += rows) {
    const pixmap = drawPiece(sourceOf(plan, key.source), drawing, grid, y, Math.min(key.height, y + rows));
    into.set(pixmap.getPixels(), y * key.width * 4);
    pixmap.destroy();
  }
}

interface Part {
  rect: PixelRect;
  pixels: () => Uint8Array | Uint8ClampedArray;
  /** First row of the run that `pixels` holds. */
  top: number;
  pixmap?: mupdf.Pixmap;
}

/** One thread's share of the work: draws, composes and screens bands of one run. */
export class BandRipper {
  readonly #kernels: Kernels;
  readonly #plan: RipPlan;
  readonly #layout: PlateLayout;
  readonly #screener: Screener;
  readonly #row: number;
  readonly #planes: number;
  readonly #packed: number;
  readonly #counts: number;
  readonly #amounts: number;
  readonly #sums: number;

  constructor(kernels: Kernels, plan: RipPlan, mask: Mask, settings: ScreenSettings) {
    this.#kernels = kernels;
    this.#plan = plan;
    this.#layout = plateLayout(plan);
    const { widthPx } = this.#layout;
    this.#screener = new Screener(kernels, widthPx, mask, settings);
    const planeBytes = widthPx / 4;
    this.#row = kernels.allocate(widthPx * 4);
    this.#planes = kernels.allocate(planeBytes * 4);
    this.#packed = kernels.allocate(planeBytes + Math.ceil(planeBytes / 128) + 16);
    this.#counts = kernels.allocate(4 * 16);
    this.#amounts = kernels.allocate(512);
    this.#sums = kernels.allocate(4 * (widthPx / 8) * 4);
    new Uint16Array(kernels.run.memory.buffer, this.#amounts, 256).set(packedAmounts(settings.drops));
  }

  /** The artworks that the band needs drawings of. */
  drawnDirectly(band: Band, sprites: readonly Sprite[]): Set<number> {
    const meets = (piece: PlacedPiece) => {
      const rect = pieceRect(this.#plan, piece);
      return rect.y < band.y + band.rows && rect.y + rect.height > band.y;
    };
    const drawn = this.#plan.pieces.filter((piece) => meets(piece) && !spriteOf(piece, sprites));
    return new Set(drawn.map((piece) => piece.source));
  }

  /** Draws what of the run's pieces lies in the band. */
  draw(band: Band, sprites: readonly Sprite[], drawingOf: DrawingOf): Part[] {
    const parts: Part[] = [];
    for (const piece of this.#plan.pieces) {
      const rect = pieceRect(this.#plan, piece);
      const top = Math.max(rect.y, band.y);
      const bottom = Math.min(rect.y + rect.height, band.y + band.rows);
      if (bottom <= top) continue;
      const sprite = spriteOf(piece, sprites);
      parts.push(
        sprite ? { rect, pixels: () => sprite.pixels, top: rect.y } : this.#drawDirect(piece, rect, top, bottom, drawingOf)
      );
    }
    return parts;
  }

  #drawDirect(piece: PlacedPiece, rect: PixelRect, top: number, bottom: number, drawingOf: DrawingOf): Part {
    const source = sourceOf(this.#plan, piece.source);
    const pixmap = drawPiece(source, drawingOf(piece.source), { ...rect, turned: piece.turned }, top, bottom);
    return { rect, pixels: () => pixmap.getPixels(), top, pixmap };
  }

  /** Composes, screens and packs the rows of a band. `errors` are those of the band before, in error diffusion. */
  screen(band: Band, parts: readonly Part[], errors?: Errors): RippedBand & { errors: Errors | undefined } {
    const { widthPx, rowsPerStrip } = this.#layout;
    const kernels = this.#kernels;
    const planeBytes = widthPx / 4;
    const cells = widthPx / 8;
    if (errors) this.#screener.errors = errors;
    kernels.words(this.#counts, 16).fill(0);
    const strips = Math.ceil(band.rows / rowsPerStrip);
    const planes = [0, 1, 2, 3].map(() => new ByteSink(planeBytes * 64));
    const sizes = new Array<number>(strips * 4).fill(0);
    const overview = new Uint8Array(Math.ceil(band.rows / 8) * cells * 4);
    const views = parts.map((part) => part.pixels());
    const discs = this.#plan.marks.filter((mark) => {
      const reach = mark.diameter;
      return toPx(mark.y + reach, this.#plan.dpi.y) >= band.y && toPx(mark.y - reach, this.#plan.dpi.y) <= band.y + band.rows;
    });
    const flats = flatRects(this.#plan, widthPx, band);
    // What the thread's last band left in the row is no part of this one.
    kernels.bytes(this.#row, widthPx * 4).fill(0);
    let blank = true;

    for (let r = 0; r < band.rows; r++) {
      const y = band.y + r;
      const here = parts.filter(({ rect }) => y >= rect.y && y < rect.y + rect.height);
      const row = kernels.bytes(this.#row, widthPx * 4);
      if (!blank) row.fill(0);
      blank = true;
      for (const part of here) {
        const { rect } = part;
        const stride = rect.width * 4;
        const from = (y - part.top) * stride;
        // A piece that hangs over the edge of the roll is cut off there.
        const skip = Math.max(0, -rect.x);
        const take = Math.min(rect.width, widthPx - rect.x) - skip;
        if (take <= 0) continue;
        const view = views[parts.indexOf(part)] as Uint8Array;
        row.set(view.subarray(from + skip * 4, from + (skip + take) * 4), (rect.x + skip) * 4);
        blank = false;
      }
      for (const flat of flats) {
        if (y < flat.top || y >= flat.bottom) continue;
        for (let x = flat.left; x < flat.right; x++) row.set(flat.inks, x * 4);
        blank = false;
      }
      for (const disc of discs) if (drawDiscRow(row, y, disc, this.#plan.dpi)) blank = false;

      if (blank && this.#screener.errorsMatter === false) kernels.bytes(this.#planes, planeBytes * 4).fill(0);
      else this.#screener.row(y, this.#row, this.#planes, planeBytes);
      const strip = Math.floor(r / rowsPerStrip);
      for (let ink = 0; ink < 4; ink++) {
        const plane = this.#planes + ink * planeBytes;
        const length = kernels.run.packBits(plane, planeBytes, this.#packed);
        (planes[ink] as ByteSink).add(kernels.bytes(this.#packed, length));
        sizes[ink * strips + strip] = (sizes[ink * strips + strip] ?? 0) + length;
        if (!blank) {
          kernels.run.countDrops(plane, planeBytes, this.#counts + ink * 16);
          kernels.run.addCells(plane, cells, this.#amounts, this.#sums + ink * cells * 4);
        }
      }
      if (r % 8 === 7 || r === band.rows - 1) {
        const at = Math.floor(r / 8) * cells * 4;
        for (let ink = 0; ink < 4; ink++) {
          const sums = kernels.words(this.#sums + ink * cells * 4, cells);
          for (let x = 0; x < cells; x++) overview[at + x * 4 + ink] = ((sums[x] as number) + 128) >> 8;
          sums.fill(0);
        }
      }
    }
    const packed = new Uint8Array(planes.reduce((sum, plane) => sum + plane.length, 0));
    let at = 0;
    for (const plane of planes) {
      plane.copyTo(packed, at);
      at += plane.length;
    }
    const counts = kernels.words(this.#counts, 16);
    const drops = [0, 1, 2, 3].map((ink): DropCounts => [
      counts[ink * 4] ?? 0,
      counts[ink * 4 + 1] ?? 0,
      counts[ink * 4 + 2] ?? 0
    ]);
    for (const part of parts) part.pixmap?.destroy();
    return {
      band,
      packed,
      sizes,
      drops,
      overview,
      coarse: shrinkCells(overview, cells),
      errors: errors ? this.#screener.errors : undefined
    };
  }
}

/** Means of 8 × 8 cells; rows at the end that are fewer are averaged over what there is. `cells` is a multiple of 8. */
function shrinkCells(overview: Uint8Array, cells: number): Uint8Array<ArrayBuffer> {
  const rows = overview.length / (cells * 4);
  const columns = cells / 8;
  const coarse = new Uint8Array(Math.ceil(rows / 8) * columns * 4);
  for (let y = 0; y < coarse.length / (columns * 4); y++) {
    const height = Math.min(8, rows - y * 8);
    for (let i = 0; i < columns * 4; i++) {
      const from = (i >> 2) * 32 + (i & 3);
      let sum = 0;
      for (let r = 0; r < height; r++) {
        const line = (y * 8 + r) * cells * 4 + from;
        for (let c = 0; c < 32; c += 4) sum += overview[line + c] as number;
      }
      coarse[y * columns * 4 + i] = Math.round(sum / (height * 8));
    }
  }
  return coarse;
}

/** Flats as pixels, those that meet the band. */
function flatRects(plan: RipPlan, widthPx: number, band: Band) {
  return (plan.flats ?? [])
    .map(({ x, y, width, height, inks }) => ({
      left: Math.max(0, Math.round(toPx(x, plan.dpi.x))),
      right: Math.min(widthPx, Math.round(toPx(x + width, plan.dpi.x))),
      top: Math.round(toPx(y, plan.dpi.y)),
      bottom: Math.round(toPx(y + height, plan.dpi.y)),
      inks: Uint8Array.from(inks)
    }))
    .filter(({ top, bottom }) => bottom > band.y && top < band.y + band.rows);
}

const spriteOf = (piece: PlacedPiece, sprites: readonly Sprite[]) =>
  sprites.find(({ key }) => key.source === piece.source && key.turned === piece.turned);

const toPx = (mm: number, dpi: number) => (mm * dpi) / MM_PER_INCH;

/** One row of a black disc on cleared white. @returns whether the row meets the disc */
function drawDiscRow(
  row: Uint8Array,
  y: number,
  mark: { x: number; y: number; diameter: number },
  dpi: { x: number; y: number }
): boolean {
  const dy = (y + 0.5) * (MM_PER_INCH / dpi.y) - mark.y;
  const half = Math.sqrt(Math.max(0, (mark.diameter / 2) ** 2 - dy * dy));
  if (half === 0) return false;
  const from = Math.max(0, Math.round(toPx(mark.x - half, dpi.x)));
  const to = Math.min(row.length / 4, Math.round(toPx(mark.x + half, dpi.x)));
  for (let x = from; x < to; x++) {
    row[x * 4] = row[x * 4 + 1] = row[x * 4 + 2] = 0;
    row[x * 4 + 3] = 255;
  }
  return true;
}

/** Bytes that come in pieces, in one growing store. */
class ByteSink {
  #bytes: Uint8Array;
  length = 0;

  constructor(room: number) {
    this.#bytes = new Uint8Array(room);
  }

  add(part: Uint8Array): void {
    if (this.length + part.length > this.#bytes.length) {
      const larger = new Uint8Array(Math.max(this.#bytes.length * 2, this.length + part.length));
      larger.set(this.#bytes.subarray(0, this.length));
      this.#bytes = larger;
    }
    this.#bytes.set(part, this.length);
    this.length += part.length;
  }

  copyTo(target: Uint8Array, at: number): void {
    target.set(this.#bytes.subarray(0, this.length), at);
  }
}
