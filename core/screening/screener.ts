import type { DropVolumes } from '../inks/drops';
import type { Kernels } from '../kernels/kernels';
import { noiseTable, thresholdTables, type InkCurve } from './thresholds';

export type HalftoneMethod = 'blue-noise' | 'error-diffusion';

/** What a run is screened with: one method, or several along it, each from a row on; the first begins at row 0. */
export type Halftone = HalftoneMethod | readonly { fromRow: number; method: HalftoneMethod }[];

/** Whether errors go from band to band. */
export const diffuses = (halftone: Halftone): boolean =>
  typeof halftone === 'string' ? halftone === 'error-diffusion' : halftone.some(({ method }) => method === 'error-diffusion');

export interface Mask {
  size: number;
  ranks: ArrayLike<number>;
}

/** How one ink is screened. */
export interface ScreenedInk {
  drops: DropVolumes;
  curve: InkCurve;
  /** Where it begins in the mask, shares of its side. */
  shift: readonly [number, number];
}

const FULL = 65280;

/** Error diffusion carries its errors from row to row, handed from band to band. */
export type Errors = Int32Array;

/** Inks that are diffused at once, one in each lane of a vector. */
const LANES = 4;

/** How many errors a row of so many pixels and inks has. */
export const errorCount = (width: number, inks: number): number => (width + 2) * LANES * Math.ceil(inks / LANES);

/**
 * Screens rows of 8-bit planes to packed 2-bit rows, ink by ink, in the kernels' memory.
 * The same pixel at the same place of the run always gets the same drop, whatever the band it is drawn in.
 */
export interface Screener {
  /**
   * @param y the row's place in the run, from 0
   * @param sources where each ink's row lies in the kernels' memory
   * @param targets where its packed row goes
   * @returns for each ink whether it has anything in this row; its packed row is not written where it has not
   */
  row(y: number, sources: readonly number[], targets: readonly number[]): boolean[];
  /** Whether a row without ink may be passed over: in error diffusion it still swallows what came before. */
  readonly mayPass: boolean;
  errors: Errors | undefined;
}

/** @param width pixels of a row, a multiple of 16 @throws RangeError where it is not */
export function makeScreener(
  halftone: Halftone,
  kernels: Kernels,
  width: number,
  mask: Mask,
  inks: readonly ScreenedInk[]
): Screener {
  if (width % 16 !== 0) throw new RangeError(`A row of ${width} pixels is not a multiple of 16.`);
  const made = (method: HalftoneMethod): Screener =>
    method === 'blue-noise' ? new BlueNoise(kernels, width, mask, inks) : new ErrorDiffusion(kernels, width, mask, inks);
  if (typeof halftone === 'string') return made(halftone);
  const methods = [...new Set(halftone.map(({ method }) => method))];
  const screeners = new Map(methods.map((method) => [method, made(method)]));
  return new Stretches(halftone.map(({ fromRow, method }) => ({ fromRow, screener: screeners.get(method)! })));
}

/** One halftone after another along the run. */
class Stretches implements Screener {
  readonly mayPass: boolean;
  readonly #stretches: readonly { fromRow: number; screener: Screener }[];

  constructor(stretches: readonly { fromRow: number; screener: Screener }[]) {
    this.#stretches = stretches;
    this.mayPass = stretches.every(({ screener }) => screener.mayPass);
  }

  row(y: number, sources: readonly number[], targets: readonly number[]): boolean[] {
    return this.#stretches.findLast(({ fromRow }) => fromRow <= y)!.screener.row(y, sources, targets);
  }

  get #diffusing(): Screener | undefined {
    return this.#stretches.find(({ screener }) => !screener.mayPass)?.screener;
  }

  get errors(): Errors | undefined {
    return this.#diffusing?.errors;
  }

  set errors(all: Errors | undefined) {
    const diffusing = this.#diffusing;
    if (diffusing) diffusing.errors = all;
  }
}

class BlueNoise implements Screener {
  readonly mayPass = true;
  errors: Errors | undefined = undefined;
  readonly #kernels: Kernels;
  readonly #width: number;
  readonly #size: number;
  /** By ink: three tables, one after the other. */
  readonly #tables: number[];

  constructor(kernels: Kernels, width: number, { size, ranks }: Mask, inks: readonly ScreenedInk[]) {
    this.#kernels = kernels;
    this.#width = width;
    this.#size = size;
    this.#tables = inks.map(({ drops, curve, shift }) => {
      const at = kernels.allocate(size * size * 3);
      thresholdTables(ranks, size, drops, curve, shift).forEach((table, k) => {
        kernels.bytes(at + k * size * size, size * size).set(table);
      });
      return at;
    });
  }

  row(y: number, sources: readonly number[], targets: readonly number[]): boolean[] {
    const { run } = this.#kernels;
    const size = this.#size;
    const down = (y % size) * size;
    return this.#tables.map(
      (table, ink) => run.screenPlane(sources[ink]!, this.#width, table + down, size * size, size, targets[ink]!) !== 0
    );
  }
}

/** Up to four inks that are diffused together. */
interface Group {
  inks: number[];
  curve: number;
  steps: number;
  noise: number;
  errors: number;
  /** Addresses of rows, one for each lane. */
  sources: number;
  levels: number;
}

class ErrorDiffusion implements Screener {
  readonly mayPass = false;
  readonly #kernels: Kernels;
  readonly #width: number;
  readonly #size: number;
  readonly #groups: Group[] = [];
  /** A row without ink, for lanes without one. */
  readonly #nothing: number;

  constructor(kernels: Kernels, width: number, mask: Mask, inks: readonly ScreenedInk[]) {
    this.#kernels = kernels;
    this.#width = width;
    this.#size = mask.size;
    this.#nothing = kernels.allocate(width);
    for (let first = 0; first < inks.length; first += LANES)
      this.#groups.push(this.#group(first, inks.slice(first, first + LANES), mask));
  }

  #group(first: number, inks: readonly ScreenedInk[], { size, ranks }: Mask): Group {
    const kernels = this.#kernels;
    const width = this.#width;
    const group: Group = {
      inks: inks.map((_, i) => first + i),
      curve: kernels.allocate(LANES * 256 * 4),
      steps: kernels.allocate(6 * LANES * 4),
      noise: kernels.allocate(size * size * LANES),
      errors: kernels.allocate((width + 2) * LANES * 4),
      sources: kernels.allocate(LANES * 4),
      levels: kernels.allocate(LANES * 4)
    };
    const { buffer } = kernels.run.memory;
    inks.forEach(({ drops, curve, shift }, lane) => {
      new Int32Array(buffer, group.curve + lane * 1024, 256).set(diffusionCurve(curve));
      const steps = new Int32Array(buffer, group.steps, 6 * LANES);
      diffusionSteps(drops).forEach((step, i) => (steps[i * LANES + lane] = step));
      const noise = kernels.bytes(group.noise, size * size * LANES);
      noiseTable(ranks, size, shift).forEach((value, i) => (noise[i * LANES + lane] = value));
    });
    const levels = kernels.allocate(width * LANES);
    kernels.words(group.levels, LANES).set(Array.from({ length: LANES }, (_, lane) => levels + lane * width));
    return group;
  }

  row(y: number, sources: readonly number[], targets: readonly number[]): boolean[] {
    const kernels = this.#kernels;
    const width = this.#width;
    for (const group of this.#groups) {
      const rows = Array.from({ length: LANES }, (_, lane) => sources[group.inks[lane] ?? -1] ?? this.#nothing);
      kernels.words(group.sources, LANES).set(rows);
      const noise = group.noise + (y % this.#size) * this.#size * LANES;
      kernels.run.diffuseRow(
        group.sources,
        width,
        group.curve,
        group.steps,
        noise,
        this.#size,
        group.errors,
        group.levels,
        y % 2
      );
      const levels = kernels.words(group.levels, LANES);
      group.inks.forEach((ink, lane) => kernels.run.packPlane(levels[lane]!, width, targets[ink]!));
    }
    return targets.map(() => true);
  }

  get errors(): Errors | undefined {
    const each = (this.#width + 2) * LANES;
    const all = new Int32Array(each * this.#groups.length);
    this.#groups.forEach(({ errors }, i) => all.set(new Int32Array(this.#kernels.run.memory.buffer, errors, each), i * each));
    return all;
  }

  set errors(all: Errors | undefined) {
    if (!all) return;
    const each = (this.#width + 2) * LANES;
    this.#groups.forEach(({ errors }, i) =>
      new Int32Array(this.#kernels.run.memory.buffer, errors, each).set(all.subarray(i * each, (i + 1) * each))
    );
  }
}

/** Ink amounts of 8-bit values for error diffusion. */
export const diffusionCurve = (curve: InkCurve): Int32Array =>
  Int32Array.from({ length: 256 }, (_, v) => Math.round((curve[v] ?? 0) * FULL));

/** The three drops' amounts and the points half-way between neighbours. */
export function diffusionSteps(drops: DropVolumes): Int32Array {
  const [one, two, three] = drops.map((volume) => Math.round((volume / drops[2]) * FULL)) as [number, number, number];
  return Int32Array.of(one, two, three, one >> 1, (one + two) >> 1, (two + three) >> 1);
}
