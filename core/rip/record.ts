import { packedAmounts, type DropCounts } from '../inks/drops';
import type { InkSet } from '../inks/ink-set';
import type { Kernels } from '../kernels/kernels';
import type { Band } from './plan';
import type { PlateLayout } from './plate-file';

/** What is kept of a band's drops: packed strips, counts, and means for looking from afar. */

export interface RippedBand {
  band: Band;
  /** Packed strips, one after the other: all of the first plate, then the next; `sizes` are their lengths. */
  packed: Uint8Array<ArrayBuffer>;
  sizes: number[];
  /** By ink. */
  drops: DropCounts[];
  /** Mean ink of cells of 8 × 8 pixels, 0…255, a byte for each ink. */
  overview: Uint8Array<ArrayBuffer>;
  /** The same of 64 × 64 pixels, for looking at a long run from afar. */
  coarse: Uint8Array<ArrayBuffer>;
}

/** Pixels a side of a cell. */
export const CELL = 8;
/** Sizes of drops that are counted. */
const SIZES = 3;

/** Places in the kernels' memory. */
interface InkPlaces {
  counts: number;
  amounts: number;
  sums: number;
}

/** What recording needs in the kernels' memory, for all bands of a run. */
export class Recorder {
  readonly #kernels: Kernels;
  readonly #layout: PlateLayout;
  readonly #planeBytes: number;
  readonly #cells: number;
  readonly #inks: InkPlaces[];
  readonly #packed: number;
  /** A row without a drop, packed. */
  readonly #blank: Uint8Array;

  constructor(kernels: Kernels, layout: PlateLayout, inks: InkSet) {
    this.#kernels = kernels;
    this.#layout = layout;
    this.#planeBytes = layout.widthPx / 4;
    this.#cells = layout.widthPx / CELL;
    this.#packed = kernels.allocate(this.#planeBytes + Math.ceil(this.#planeBytes / 128) + 16);
    this.#inks = inks.map(({ drops }) => {
      const amounts = kernels.allocate(512);
      new Uint16Array(kernels.run.memory.buffer, amounts, 256).set(packedAmounts(drops));
      return { counts: kernels.allocate(16), amounts, sums: kernels.allocate(this.#cells * 4) };
    });
    const empty = kernels.allocate(this.#planeBytes);
    this.#blank = kernels.bytes(this.#packed, kernels.run.packBits(empty, this.#planeBytes, this.#packed)).slice();
  }

  begin(band: Band): Recording {
    for (const { counts, sums } of this.#inks) {
      this.#kernels.words(counts, SIZES).fill(0);
      this.#kernels.words(sums, this.#cells).fill(0);
    }
    return new Recording(this, band);
  }

  get inks(): number {
    return this.#inks.length;
  }
  get cells(): number {
    return this.#cells;
  }
  get rowsPerStrip(): number {
    return this.#layout.rowsPerStrip;
  }

  /** Packs a row of an ink, and counts it where there is one. @param plane nothing for a row without a drop */
  take(ink: number, plane: number | undefined, into: ByteSink): number {
    const { run } = this.#kernels;
    if (plane === undefined) {
      into.add(this.#blank);
      return this.#blank.length;
    }
    const { counts, amounts, sums } = this.#inks[ink]!;
    run.countDrops(plane, this.#planeBytes, counts);
    run.addCells(plane, this.#cells, amounts, sums);
    const length = run.packBits(plane, this.#planeBytes, this.#packed);
    into.add(this.#kernels.bytes(this.#packed, length));
    return length;
  }

  /** The means of the rows since the last time, a byte a cell and ink. */
  means(into: Uint8Array): void {
    this.#inks.forEach(({ sums }, ink) => {
      const words = this.#kernels.words(sums, this.#cells);
      for (let x = 0; x < this.#cells; x++) into[x * this.#inks.length + ink] = (words[x]! + 128) >> 8;
      words.fill(0);
    });
  }

  counted(): DropCounts[] {
    return this.#inks.map(({ counts }) => [...this.#kernels.words(counts, SIZES)] as unknown as DropCounts);
  }
}

/** One band as it is recorded, row by row. */
class Recording {
  readonly #recorder: Recorder;
  readonly #band: Band;
  readonly #strips: number;
  readonly #sinks: ByteSink[];
  readonly #sizes: number[];
  readonly #overview: Uint8Array<ArrayBuffer>;

  constructor(recorder: Recorder, band: Band) {
    this.#recorder = recorder;
    this.#band = band;
    this.#strips = Math.ceil(band.rows / recorder.rowsPerStrip);
    this.#sinks = Array.from({ length: recorder.inks }, () => new ByteSink());
    this.#sizes = new Array<number>(this.#strips * recorder.inks).fill(0);
    this.#overview = new Uint8Array(Math.ceil(band.rows / CELL) * recorder.cells * recorder.inks);
  }

  /** @param row of the band @param planes where each ink's packed row lies; nothing where it has no drop */
  row(row: number, planes: readonly (number | undefined)[]): void {
    const recorder = this.#recorder;
    const strip = Math.floor(row / recorder.rowsPerStrip);
    this.#sinks.forEach((sink, ink) => {
      const at = ink * this.#strips + strip;
      this.#sizes[at] = this.#sizes[at]! + recorder.take(ink, planes[ink], sink);
    });
    if (row % CELL === CELL - 1 || row === this.#band.rows - 1) {
      const line = recorder.cells * recorder.inks;
      recorder.means(this.#overview.subarray(Math.floor(row / CELL) * line));
    }
  }

  finish(): RippedBand {
    const recorder = this.#recorder;
    const packed = new Uint8Array(this.#sinks.reduce((sum, sink) => sum + sink.length, 0));
    let at = 0;
    for (const sink of this.#sinks) {
      sink.copyTo(packed, at);
      at += sink.length;
    }
    return {
      band: this.#band,
      packed,
      sizes: this.#sizes,
      drops: recorder.counted(),
      overview: this.#overview,
      coarse: shrinkCells(this.#overview, recorder.cells, recorder.inks)
    };
  }
}

/** Means of 8 × 8 cells; rows at the end that are fewer are averaged over what there is. `cells` is a multiple of 8. */
export function shrinkCells(overview: Uint8Array, cells: number, inks: number): Uint8Array<ArrayBuffer> {
  const rows = overview.length / (cells * inks);
  const columns = cells / CELL;
  const coarse = new Uint8Array(Math.ceil(rows / CELL) * columns * inks);
  for (let y = 0; y < coarse.length / (columns * inks); y++) {
    const height = Math.min(CELL, rows - y * CELL);
    for (let x = 0; x < columns; x++)
      for (let ink = 0; ink < inks; ink++) {
        let sum = 0;
        for (let r = 0; r < height; r++) {
          const line = ((y * CELL + r) * cells + x * CELL) * inks + ink;
          for (let c = 0; c < CELL; c++) sum += overview[line + c * inks]!;
        }
        coarse[(y * columns + x) * inks + ink] = Math.round(sum / (height * CELL));
      }
  }
  return coarse;
}

/** Bytes that come in pieces, in one growing store. */
class ByteSink {
  #bytes = new Uint8Array(1 << 16);
  length = 0;

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
