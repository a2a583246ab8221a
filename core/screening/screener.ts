import type { Kernels } from '../kernels/kernels';
import { noiseTable, thresholdTables, type InkCurves } from './thresholds';
import type { DropVolumes } from '../inks/drops';

export type HalftoneMethod = 'blue-noise' | 'error-diffusion';

export interface ScreenSettings {
  method: HalftoneMethod;
  drops: DropVolumes;
  curves: InkCurves;
}

export interface Mask {
  size: number;
  ranks: ArrayLike<number>;
}

const FULL = 65280;

/** Error diffusion carries its errors from row to row: (width + 2) × 4 of them, handed from band to band. */
export type Errors = Int32Array;

/**
 * Screens rows of interleaved CMYK (8 bits) to packed 2-bit rows of four planes, in the kernels' memory.
 * The same pixel at the same place of the run always gets the same drop, whatever the band it is drawn in.
 */
export class Screener {
  readonly #kernels: Kernels;
  readonly #width: number;
  readonly #period: number;
  readonly #settings: ScreenSettings;
  readonly #tables: number;
  readonly #curve: number;
  readonly #steps: number;
  readonly #noise: number;
  readonly #errors: number;
  readonly #levels: number;

  /** @param width pixels of a row, a multiple of 16 */
  constructor(kernels: Kernels, width: number, mask: Mask, settings: ScreenSettings) {
    if (width % 16 !== 0) throw new RangeError(`A row of ${width} pixels is not a multiple of 16.`);
    this.#kernels = kernels;
    this.#width = width;
    this.#period = mask.size;
    this.#settings = settings;
    const tableBytes = mask.size * mask.size * 4;
    const diffusing = settings.method === 'error-diffusion';
    this.#tables = kernels.allocate(tableBytes * 3);
    this.#curve = kernels.allocate(4 * 256 * 4);
    this.#steps = kernels.allocate(6 * 4);
    this.#noise = kernels.allocate(diffusing ? tableBytes : 0);
    this.#errors = kernels.allocate(diffusing ? (width + 2) * 16 : 0);
    this.#levels = kernels.allocate(diffusing ? width * 4 : 0);
    thresholdTables(mask.ranks, mask.size, settings.drops, settings.curves).forEach((table, k) => {
      kernels.bytes(this.#tables + k * tableBytes, tableBytes).set(table);
    });
    if (diffusing) {
      kernels.bytes(this.#noise, tableBytes).set(noiseTable(mask.ranks, mask.size));
      new Int32Array(kernels.run.memory.buffer, this.#curve, 1024).set(diffusionCurves(settings.curves));
      new Int32Array(kernels.run.memory.buffer, this.#steps, 6).set(diffusionSteps(settings.drops));
    }
  }

  /** Whether a row without ink may be passed over: in error diffusion it still swallows what came before. */
  get errorsMatter(): boolean {
    return this.#settings.method === 'error-diffusion';
  }

  get errors(): Errors {
    return new Int32Array(this.#kernels.run.memory.buffer, this.#errors, (this.#width + 2) * 4).slice();
  }

  set errors(errors: Errors) {
    new Int32Array(this.#kernels.run.memory.buffer, this.#errors, (this.#width + 2) * 4).set(errors);
  }

  /**
   * @param y the row's place in the run, from 0
   * @param source where the row lies in the kernels' memory
   * @param target where the first plane's packed row goes; the others follow at `planeBytes`
   */
  row(y: number, source: number, target: number, planeBytes: number): void {
    const { run } = this.#kernels;
    const rowBytes = this.#period * 4;
    const tableRow = (y % this.#period) * rowBytes;
    if (this.#settings.method === 'blue-noise') {
      run.screenRow(source, this.#width, this.#tables + tableRow, this.#period * rowBytes, this.#period, target, planeBytes);
    } else {
      run.diffuseRow(
        source,
        this.#width,
        this.#curve,
        this.#steps,
        this.#noise + tableRow,
        this.#period,
        this.#errors,
        this.#levels,
        y % 2
      );
      run.packRow(this.#levels, this.#width, target, planeBytes);
    }
  }
}

/** Ink amounts of 8-bit values for error diffusion, four tables of 256. */
export function diffusionCurves(curves: InkCurves): Int32Array {
  const table = new Int32Array(1024);
  curves.forEach((curve, ink) => {
    for (let v = 0; v < 256; v++) table[ink * 256 + v] = Math.round((curve[v] ?? 0) * FULL);
  });
  return table;
}

/** The three drops' amounts and the points half-way between neighbours. */
export function diffusionSteps(drops: DropVolumes): Int32Array {
  const [one, two, three] = drops.map((volume) => Math.round((volume / drops[2]) * FULL)) as [number, number, number];
  return Int32Array.of(one, two, three, one >> 1, (one + two) >> 1, (two + three) >> 1);
}
