import { tonePixels, toneTablesOf } from '../artwork/toned';
import { channelsOf } from '../inks/ink-set';
import type { Amounts } from '../marks/print-list';
import type { Part, PartLayer } from './parts';
import { layersOf, PIXEL_BYTES, type Band, type RipPlan } from './plan';
import { PrintedMarks } from './printed-marks';

/** Where a composed row goes: by layer of the run the profile's channels, interleaved, or, of another ink, how much of it. */
export type ComposedRow = readonly Uint8Array[];

/** Puts the rows of a band together: artwork, then what is printed beside it. Rows are asked for from first to last. */
export class Composer {
  readonly #widthPx: number;
  readonly #parts: {
    part: Part;
    layers: (PartLayer & { data: Uint8Array | Uint8ClampedArray })[];
    tone: Uint8Array[] | undefined;
  }[];
  readonly #marks: PrintedMarks;
  /** By layer which of a mark's amounts it prints: the first of four, one, or none. */
  readonly #amountOf: number[];
  #row: ComposedRow = [];
  #inked = false;

  constructor(plan: RipPlan, widthPx: number, band: Band, parts: readonly Part[]) {
    this.#widthPx = widthPx;
    this.#parts = parts.map((part) => ({
      part,
      layers: part.layers.map((layer) => ({ ...layer, data: layer.pixels() })),
      tone: part.tone && toneTablesOf(part.tone)
    }));
    this.#marks = new PrintedMarks(plan, widthPx, band);
    this.#amountOf = amountsByLayer(plan);
  }

  /** @param into cleared @returns whether anything was put there */
  row(y: number, into: ComposedRow): boolean {
    this.#row = into;
    this.#inked = false;
    for (const { part, layers, tone } of this.#parts) {
      if (y < part.rect.y || y >= part.rect.y + part.rect.height) continue;
      for (const layer of layers)
        this.#copy(y, part, into[layer.place]!, layer.data, layer.bytes, layer.bytes === PIXEL_BYTES ? tone : undefined);
    }
    this.#marks.row(y, this.#paint);
    return this.#inked;
  }

  #copy(
    y: number,
    { rect, top, clip }: Part,
    row: Uint8Array,
    data: Uint8Array | Uint8ClampedArray,
    bytes: number,
    tone: readonly Uint8Array[] | undefined
  ): void {
    const from = (y - top) * rect.width;
    // A piece that hangs over the edge of the roll is cut off there.
    const first = Math.max(0, -rect.x);
    const last = Math.min(rect.width, this.#widthPx - rect.x);
    const span = (start: number, end: number) => {
      const [a, b] = [Math.max(first, start), Math.min(last, end)];
      if (b <= a) return;
      const part = data.subarray((from + a) * bytes, (from + b) * bytes);
      const at = (rect.x + a) * bytes;
      row.set(part, at);
      if (tone) tonePixels(row.subarray(at, at + part.length), tone);
      this.#inked = true;
    };
    if (!clip) return span(0, rect.width);
    const line = y - rect.y;
    for (let i = clip.starts[line] ?? 0; i < (clip.starts[line + 1] ?? 0); i++) span(clip.from[i]!, clip.to[i]! + 1);
  }

  readonly #paint = (from: number, to: number, amounts: Amounts): void => {
    if (to <= from) return;
    const bytes = amounts.map((v) => Math.round(v * 255));
    this.#row.forEach((row, layer) => {
      const at = this.#amountOf[layer]!;
      // Other layers leave a mark alone.
      if (at !== 0) return row.fill(at < 0 ? 0 : (bytes[at] ?? 0), from, to);
      fillPixels(
        row,
        Array.from({ length: PIXEL_BYTES }, (_, channel) => bytes[channel] ?? 0),
        from,
        to
      );
    });
    this.#inked = true;
  };
}

/** Writes one pixel all along a stretch of a row: once, then as much again as is there. */
function fillPixels(row: Uint8Array, pixel: readonly number[], from: number, to: number): void {
  const [start, end] = [from * PIXEL_BYTES, to * PIXEL_BYTES];
  row.set(pixel, start);
  for (let at = start + PIXEL_BYTES; at < end; at += at - start) row.copyWithin(at, start, Math.min(at, start + end - at));
}

/**
 * Marks print in the colour that is laid down last, which is the one that lies open, and other inks in the first layer of
 * each.
 */
function amountsByLayer(plan: RipPlan): number[] {
  const layers = layersOf(plan);
  const open = layers.map(({ ink }) => ink).lastIndexOf('colour');
  const channels = channelsOf(plan.inks);
  return layers.map(({ ink }, layer) => {
    if (layer === open) return 0;
    const first = layers.findIndex((one) => one.ink === ink) === layer;
    const channel = plan.inks.find(({ role }) => role === ink)?.channel;
    return ink !== 'colour' && first && channel !== undefined ? channels.indexOf(channel) : -1;
  });
}
