import type * as mupdf from '../interpreter/interpreter';
import type { Drawing } from '../artwork/drawing';
import { drawPiece } from '../artwork/piece';
import type { Flat } from '../marks/print-list';
import type { Inks } from '../colour/separation';
import { textFlats } from '../marks/lettering';
import { BLACK } from '../marks/print-list';
import { apply, chain, rotation, translation } from '../geometry/matrix';
import type { Kernels } from '../kernels/kernels';
import { cellsOf, type Cells } from '../geometry/cells';
import { Screener, type Errors, type Mask, type ScreenSettings } from '../screening/screener';
import { MM_PER_INCH } from '../units/length';
import { packedAmounts, type DropCounts } from '../inks/drops';
import { pieceRect, pieceToRun, plateLayout, type Band, type RipPlan, type SpriteKey } from './plan';
import type { PlacedPiece } from '../layout/pieces';
import type { Box } from '../geometry/box';
import type { Mark } from '../marks/print-list';
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
  const grid = { x: 0, y: 0, width: key.width, height: key.height, turn: key.turn };
  for (let y = 0; y < key.height; y += rows) {
    const pixmap = drawPiece(sourceOf(plan, key.source), drawing, grid, y, Math.min(key.height, y + rows));
    into.set(pixmap.getPixels(), y * key.width * 4);
    pixmap.destroy();
  }
}

interface Part {
  rect: Box;
  pixels: () => Uint8Array | Uint8ClampedArray;
  /** First row of the run that `pixels` holds. */
  top: number;
  /** Where it prints of its box, where that is not all. */
  clip: Cells | undefined;
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
  readonly #clips = new Map<string, Cells>();

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
        sprite
          ? { rect, pixels: () => sprite.pixels, top: rect.y, clip: this.#clip(piece, rect) }
          : this.#drawDirect(piece, rect, top, bottom, drawingOf)
      );
    }
    return parts;
  }

  #drawDirect(piece: PlacedPiece, rect: Box, top: number, bottom: number, drawingOf: DrawingOf): Part {
    const source = sourceOf(this.#plan, piece.source);
    const pixmap = drawPiece(source, drawingOf(piece.source), { ...rect, turn: piece.turn }, top, bottom);
    return { rect, pixels: () => pixmap.getPixels(), top, pixmap, clip: this.#clip(piece, rect) };
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
        return { x: within(toPx(at.x, dpiX) - rect.x, rect.width), y: within(toPx(at.y, dpiY) - rect.y, rect.height) };
      })
    );
    const made = shiftCells(cellsOf(rings, 1));
    this.#clips.set(key, made);
    return made;
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
    const marks = [...this.#plan.marks, ...(this.#plan.rings ?? [])].filter((mark) => {
      const reach = mark.diameter;
      return toPx(mark.y + reach, this.#plan.dpi.y) >= band.y && toPx(mark.y - reach, this.#plan.dpi.y) <= band.y + band.rows;
    });
    const flats = flatRects(this.#plan, widthPx, band).sort((p, q) => p.top - q.top);
    const openFlats: typeof flats = [];
    let nextFlat = 0;
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
        const first = Math.max(0, -rect.x);
        const last = Math.min(rect.width, widthPx - rect.x);
        const view = views[parts.indexOf(part)] as Uint8Array;
        const { clip } = part;
        const r = y - rect.y;
        const spans = clip ? (clip.starts[r + 1] ?? 0) - (clip.starts[r] ?? 0) : 1;
        for (let i = 0; i < spans; i++) {
          const a = Math.max(first, clip ? clip.from[clip.starts[r]! + i]! : 0);
          const b = Math.min(last, clip ? clip.to[clip.starts[r]! + i]! + 1 : rect.width);
          if (b <= a) continue;
          row.set(view.subarray(from + a * 4, from + b * 4), (rect.x + a) * 4);
          blank = false;
        }
      }
      while (nextFlat < flats.length && flats[nextFlat]!.top <= y) openFlats.push(flats[nextFlat++]!);
      for (let i = openFlats.length - 1; i >= 0; i--) {
        const flat = openFlats[i]!;
        if (y >= flat.bottom) {
          openFlats.splice(i, 1);
          continue;
        }
        for (let x = flat.left; x < flat.right; x++) row.set(flat.inks, x * 4);
        blank = false;
      }
      for (const mark of marks) if (drawMarkRow(row, y, mark, this.#plan.dpi)) blank = false;

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
  return [...(plan.flats ?? []), ...lettering(plan, band)]
    .map(({ x, y, width, height, inks }) => ({
      left: Math.max(0, Math.round(toPx(x, plan.dpi.x))),
      right: Math.min(widthPx, Math.round(toPx(x + width, plan.dpi.x))),
      top: Math.round(toPx(y, plan.dpi.y)),
      bottom: Math.round(toPx(y + height, plan.dpi.y)),
      inks: bytesOf(inks)
    }))
    .filter(({ top, bottom }) => bottom > band.y && top < band.y + band.rows);
}

const spriteOf = (piece: PlacedPiece, sprites: readonly Sprite[]) =>
  sprites.find(({ key }) => key.source === piece.source && key.turn === piece.turn);

const toPx = (mm: number, dpi: number) => (mm * dpi) / MM_PER_INCH;

/** Text of the plan that meets a band, as rectangles. */
function lettering(plan: RipPlan, band: Band): Flat[] {
  const mm = MM_PER_INCH / plan.dpi.y;
  const flats: Flat[] = [];
  for (const { x, y, heightMm, text, turn, inks } of plan.letters ?? []) {
    const reach = heightMm * (text.length + 2);
    if (y - reach > (band.y + band.rows) * mm || y + reach < band.y * mm) continue;
    const place = chain(rotation(turn), translation(x, y));
    for (const flat of textFlats(text, heightMm).flats) {
      const p = apply(place, flat);
      const q = apply(place, { x: flat.x + flat.width, y: flat.y + flat.height });
      flats.push({ x: Math.min(p.x, q.x), y: Math.min(p.y, q.y), width: Math.abs(q.x - p.x), height: Math.abs(q.y - p.y), inks });
    }
  }
  return flats;
}

const bytesOf = (inks: Inks) => Uint8Array.from(inks, (v) => Math.round(v * 255));

/** One row of a mark on what is drawn. @returns whether the row meets the mark */
function drawMarkRow(row: Uint8Array, y: number, mark: Mark, dpi: { x: number; y: number }): boolean {
  const dy = (y + 0.5) * (MM_PER_INCH / dpi.y) - mark.y;
  const r = mark.diameter / 2;
  if (Math.abs(dy) >= r) return false;
  const weight = mark.weight ?? mark.diameter / 4;
  const inks = bytesOf(mark.inks ?? BLACK);
  const paint = (from: number, to: number) => {
    const end = Math.min(row.length / 4, Math.round(toPx(mark.x + to, dpi.x)));
    for (let x = Math.max(0, Math.round(toPx(mark.x + from, dpi.x))); x < end; x++) row.set(inks, x * 4);
  };
  const half = Math.sqrt(r * r - dy * dy);
  if (mark.shape === 'square') paint(-r, r);
  else if (mark.shape === 'cross')
    paint(Math.abs(dy) < weight / 2 ? -r : -weight / 2, Math.abs(dy) < weight / 2 ? r : weight / 2);
  else if (mark.shape === 'ring' && Math.abs(dy) < r - weight) {
    const hole = Math.sqrt((r - weight) ** 2 - dy * dy);
    paint(-half, -hole);
    paint(hole, half);
  } else paint(-half, half);
  return true;
}

const within = (v: number, most: number) => Math.min(most, Math.max(0, v));

/** Cells counted from the box's own first row and column. */
function shiftCells({ cells, column, row }: { cells: Cells; column: number; row: number }): Cells {
  return {
    ...cells,
    rows: cells.rows + row,
    starts: Int32Array.from([...new Array<number>(row).fill(0), ...cells.starts]),
    from: cells.from.map((x) => x + column),
    to: cells.to.map((x) => x + column)
  };
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
