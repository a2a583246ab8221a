import type { Amounts } from '../marks/print-list';
import type { Part } from './parts';
import { PIXEL_BYTES, type Band, type RipPlan } from './plan';
import { PrintedMarks } from './printed-marks';

/** Where a composed row goes. */
export interface ComposedRow {
  /** The profile's channels, interleaved. */
  pixels: Uint8Array;
  /** A row for each channel beside them. */
  others: readonly Uint8Array[];
}

/** Puts the rows of a band together: artwork, then what is printed beside it. Rows are asked for from first to last. */
export class Composer {
  readonly #widthPx: number;
  readonly #parts: { part: Part; pixels: Uint8Array | Uint8ClampedArray }[];
  readonly #marks: PrintedMarks;
  #row: ComposedRow = { pixels: new Uint8Array(0), others: [] };
  #inked = false;

  constructor(plan: RipPlan, widthPx: number, band: Band, parts: readonly Part[]) {
    this.#widthPx = widthPx;
    this.#parts = parts.map((part) => ({ part, pixels: part.pixels() }));
    this.#marks = new PrintedMarks(plan, widthPx, band);
  }

  /** @param into cleared @returns whether anything was put there */
  row(y: number, into: ComposedRow): boolean {
    this.#row = into;
    this.#inked = false;
    for (const { part, pixels } of this.#parts)
      if (y >= part.rect.y && y < part.rect.y + part.rect.height) this.#copy(y, part, pixels);
    this.#marks.row(y, this.#paint);
    return this.#inked;
  }

  #copy(y: number, { rect, top, clip }: Part, pixels: Uint8Array | Uint8ClampedArray): void {
    const from = (y - top) * rect.width;
    // A piece that hangs over the edge of the roll is cut off there.
    const first = Math.max(0, -rect.x);
    const last = Math.min(rect.width, this.#widthPx - rect.x);
    const span = (start: number, end: number) => {
      const [a, b] = [Math.max(first, start), Math.min(last, end)];
      if (b <= a) return;
      this.#row.pixels.set(pixels.subarray((from + a) * PIXEL_BYTES, (from + b) * PIXEL_BYTES), (rect.x + a) * PIXEL_BYTES);
      this.#inked = true;
    };
    if (!clip) return span(0, rect.width);
    const line = y - rect.y;
    for (let i = clip.starts[line] ?? 0; i < (clip.starts[line + 1] ?? 0); i++) span(clip.from[i]!, clip.to[i]! + 1);
  }

  readonly #paint = (from: number, to: number, amounts: Amounts): void => {
    if (to <= from) return;
    const bytes = amounts.map((v) => Math.round(v * 255));
    const { pixels, others } = this.#row;
    const process = Array.from({ length: PIXEL_BYTES }, (_, channel) => bytes[channel] ?? 0);
    for (let x = from; x < to; x++) pixels.set(process, x * PIXEL_BYTES);
    others.forEach((other, i) => other.fill(bytes[PIXEL_BYTES + i] ?? 0, from, to));
    this.#inked = true;
  };
}
