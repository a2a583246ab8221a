import type { Kernels } from '../kernels/kernels';
import { adjustLab, changesNothing, NO_ADJUSTMENT, type Adjustment } from './adjustment';
import { ForwardGrid } from './forward-grid';
import { labToXyz, xyzToSrgb, type Triple } from './lab';
import { absoluteFrom } from './media-relative';
import { toneTables, type Tone } from './tone';

/**
 * How inks look on the screen, quick enough to follow a hand: tables are made once for a condition, and each change of tone goes
 * through them pixel by pixel.
 */

/** What a condition is to the eye. */
export interface ProofTables {
  /** Ink → L*a*b* relative to the media. */
  forward: ForwardGrid;
  /** L*a*b* of the bare media under D50. */
  white: Triple;
  /** From colours to inks, as `backTable` gives it. */
  back: Float32Array;
}

export interface ProofChange {
  /** One after the other. */
  tones: readonly Tone[];
  adjustment: Adjustment;
  /** What the bare media looks like: itself, or the screen's white. */
  white: 'media' | 'screen';
}

export const UNCHANGED: ProofChange = { tones: [], adjustment: NO_ADJUSTMENT, white: 'media' };

/** Points of the table of looks a side, and of that of adjusted inks, which is made with each change. */
const LOOKS = 25;
const ADJUSTED = 11;
/** Of the table from colours to inks, over L* 0…100 and a*, b* to this far on both sides. */
const BACK = 33;
const REACH = 110;
/** Bytes of a pixel: inks, and what they look like. */
const BYTES = 4;
const FULL = 65280;

export class SoftProof {
  readonly #kernels: Kernels;
  readonly #tables: ProofTables;
  readonly #looks = new Map<ProofChange['white'], number>();
  readonly #places: number;
  readonly #adjusted: number;
  /** L*a*b* of the points of adjusted inks. */
  readonly #labs: readonly Triple[];
  #image: { at: number; between: number; target: number; count: number } | undefined;

  constructor(kernels: Kernels, tables: ProofTables) {
    this.#kernels = kernels;
    this.#tables = tables;
    this.#places = kernels.allocate(4 * 256 * 2);
    this.#adjusted = kernels.allocate(ADJUSTED ** 4 * 8);
    const labs: Triple[] = [];
    eachPoint(ADJUSTED, (inks) => labs.push(tables.forward.lab(...inks)));
    this.#labs = labs;
    for (const white of ['media', 'screen'] as const) this.#looks.set(white, this.#makeLooks(white));
  }

  /** Sets what is shown. @param inks four bytes a pixel, as they are drawn before tone */
  show(inks: Uint8Array): void {
    const kernels = this.#kernels;
    if (this.#image?.count !== inks.length / BYTES) {
      if (this.#image) kernels.release(this.#image.at);
      const [at, between, target] = [1, 2, 3].map(() => kernels.allocate(inks.length)) as [number, number, number];
      this.#image = { at, between, target, count: inks.length / BYTES };
    }
    kernels.bytes(this.#image.at, inks.length).set(inks);
  }

  /** @returns red, green, blue and 255 of each pixel, of the kernels' memory: good until the next call */
  render({ tones, adjustment, white }: ProofChange): Uint8ClampedArray {
    if (!this.#image) throw new RangeError('There is nothing to show.');
    const { at, between, target, count } = this.#image;
    const { run } = this.#kernels;
    let source = at;
    if (!changesNothing(adjustment)) {
      this.#adjust(adjustment);
      this.#put(toneTables([]), ADJUSTED);
      run.lookup4(at, count, this.#places, this.#adjusted, ADJUSTED, between);
      source = between;
    }
    this.#put(toneTables(tones), LOOKS);
    run.lookup4(source, count, this.#places, this.#looks.get(white)!, LOOKS, target);
    return new Uint8ClampedArray(run.memory.buffer, target, count * BYTES);
  }

  /** The inks of what is shown, adjusted and before any tone; good until the next call. */
  inks(adjustment: Adjustment): Uint8Array {
    this.render({ ...UNCHANGED, adjustment });
    const { at, between, count } = this.#image!;
    return this.#kernels.bytes(changesNothing(adjustment) ? at : between, count * BYTES);
  }

  /** Places on a table's axes by value, as `lookup4` takes them. */
  #put(tables: readonly Float64Array[], grid: number): void {
    const places = new Uint16Array(this.#kernels.run.memory.buffer, this.#places, 4 * 256);
    tables.forEach((table, channel) =>
      table.forEach((amount, v) => {
        const place = amount * (grid - 1);
        const whole = Math.min(grid - 2, Math.floor(place));
        places[channel * 256 + v] = whole * 512 + Math.round((place - whole) * 256);
      })
    );
  }

  /** What each point of inks looks like. @returns where the table is */
  #makeLooks(white: ProofChange['white']): number {
    const { forward, white: media } = this.#tables;
    const absolute = absoluteFrom(media);
    const at = this.#kernels.allocate(LOOKS ** 4 * 8);
    const table = new Uint16Array(this.#kernels.run.memory.buffer, at, LOOKS ** 4 * 4);
    let put = 0;
    eachPoint(LOOKS, (inks) => {
      const relative = forward.lab(...inks);
      for (const part of xyzToSrgb(labToXyz(white === 'media' ? absolute(relative) : relative)))
        table[put++] = Math.round(part * FULL);
      table[put++] = FULL;
    });
    return at;
  }

  /** The inks of what each point of inks looks like, adjusted. */
  #adjust(adjustment: Adjustment): void {
    const table = new Uint16Array(this.#kernels.run.memory.buffer, this.#adjusted, ADJUSTED ** 4 * 4);
    this.#labs.forEach((lab, i) => readBack(this.#tables.back, adjustLab(lab, adjustment), table, i * 4));
  }
}

/**
 * Inks of an even grid of colours.
 *
 * @param inksOf L*a*b* relative to the media → inks 0…1
 * @returns `BACK`³ × 4 figures, L* slowest, 0…65280
 */
export function backTable(inksOf: (lab: Readonly<Triple>) => readonly number[]): Float32Array {
  const table = new Float32Array(BACK ** 3 * 4);
  const at = (i: number) => i / (BACK - 1);
  let put = 0;
  for (let l = 0; l < BACK; l++)
    for (let a = 0; a < BACK; a++)
      for (let b = 0; b < BACK; b++) {
        const inks = inksOf([100 * at(l), REACH * (2 * at(a) - 1), REACH * (2 * at(b) - 1)]);
        for (let i = 0; i < 4; i++) table[put++] = Math.min(1, Math.max(0, inks[i]!)) * FULL;
      }
  return table;
}

/** A colour's inks between the eight points around it. */
function readBack(table: Float32Array, [l, a, b]: Readonly<Triple>, out: Uint16Array, put: number): void {
  const last = BACK - 1;
  const x = Math.min(1, Math.max(0, l / 100)) * last;
  const y = Math.min(1, Math.max(0, (a / REACH + 1) / 2)) * last;
  const z = Math.min(1, Math.max(0, (b / REACH + 1) / 2)) * last;
  const [i, j, k] = [Math.min(last - 1, x | 0), Math.min(last - 1, y | 0), Math.min(last - 1, z | 0)];
  const [fx, fy, fz] = [x - i, y - j, z - k];
  const base = ((i * BACK + j) * BACK + k) * 4;
  const [gx, gy, gz] = [1 - fx, 1 - fy, 1 - fz];
  for (let n = 0; n < 4; n++) {
    const at = base + n;
    const low = gy * (gz * table[at]! + fz * table[at + 4]!) + fy * (gz * table[at + ROW]! + fz * table[at + ROW + 4]!);
    const up = at + PLANE;
    const high = gy * (gz * table[up]! + fz * table[up + 4]!) + fy * (gz * table[up + ROW]! + fz * table[up + ROW + 4]!);
    out[put + n] = gx * low + fx * high + 0.5;
  }
}

/** From one point of the table to the next along a* and along L*. */
const ROW = BACK * 4;
const PLANE = BACK * ROW;

/** Tables as one row of figures, as they are sent. */
export const packTables = ({ forward, white, back }: ProofTables): Float32Array =>
  Float32Array.from([forward.size, ...white, ...forward.table, ...back]);

/** @throws RangeError for what is none */
export function unpackTables(figures: Float32Array): ProofTables {
  const [size = 0, l = 0, a = 0, b = 0] = figures;
  const rest = figures.subarray(4);
  const points = size ** 4 * 3;
  if (rest.length !== points + BACK ** 3 * 4) throw new RangeError('These are no tables of a condition.');
  return { forward: new ForwardGrid(size, rest.slice(0, points)), white: [l, a, b], back: rest.slice(points) };
}

/** L*a*b* of inks after their tones, three figures a pixel: under D50, or relative to the media. */
export function labsOf(
  tables: Pick<ProofTables, 'forward' | 'white'>,
  inks: Uint8Array,
  { tones, white }: ProofChange
): Float32Array {
  const made = toneTables(tones);
  const absolute = absoluteFrom(tables.white);
  const known = new Map<number, Triple>();
  const labs = new Float32Array((inks.length / BYTES) * 3);
  for (let i = 0, at = 0; i < inks.length; i += BYTES, at += 3) {
    const [c, m, y, k] = [inks[i]!, inks[i + 1]!, inks[i + 2]!, inks[i + 3]!];
    const key = ((c * 256 + m) * 256 + y) * 256 + k;
    let lab = known.get(key);
    if (!lab) {
      const relative = tables.forward.lab(made[0]![c]!, made[1]![m]!, made[2]![y]!, made[3]![k]!);
      lab = white === 'media' ? absolute(relative) : relative;
      known.set(key, lab);
    }
    labs.set(lab, at);
  }
  return labs;
}

function eachPoint(grid: number, visit: (inks: [number, number, number, number]) => void): void {
  const at = (i: number) => i / (grid - 1);
  for (let c = 0; c < grid; c++)
    for (let m = 0; m < grid; m++)
      for (let y = 0; y < grid; y++) for (let k = 0; k < grid; k++) visit([at(c), at(m), at(y), at(k)]);
}
