import { readTable } from './curve-table';
import type { Triple } from './lab';

/** Reads ICC profiles of versions 2 and 4: what they are, and tables of 8 and 16 bits for colour (lut8, lut16). */

export interface ProfileFacts {
  version: string;
  deviceClass: string;
  colourSpace: string;
  connection: string;
  description: string;
  bytes: number;
  tags: string[];
  /** XYZ of the media's white, where it says so. */
  white: Triple | null;
  /** The readings it was made of (CGATS), where they are kept in it. */
  measured: string | null;
}

export class IccError extends Error {
  override name = 'IccError';
}

const MOST_BYTES = 20e6;
const MOST_TAGS = 100;

function tagsOf(bytes: Uint8Array): Map<string, Uint8Array> {
  if (bytes.length > MOST_BYTES) throw new IccError(`The profile has ${(bytes.length / 1e6).toFixed(0)} MB; 20 MB is the most.`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 132 || text(bytes, 36, 4) !== 'acsp') throw new IccError('This is not an ICC profile.');
  const count = view.getUint32(128);
  if (count > MOST_TAGS || 132 + count * 12 > bytes.length) throw new IccError('The profile’s list of tags is broken.');
  const tags = new Map<string, Uint8Array>();
  for (let i = 0; i < count; i++) {
    const at = 132 + i * 12;
    const from = view.getUint32(at + 4);
    const length = view.getUint32(at + 8);
    if (from + length > bytes.length || length < 8)
      throw new IccError(`The profile is cut off: its tag ${text(bytes, at, 4)} reaches beyond its end.`);
    tags.set(text(bytes, at, 4), bytes.subarray(from, from + length));
  }
  return tags;
}

const text = (bytes: Uint8Array, at: number, length: number): string => String.fromCharCode(...bytes.subarray(at, at + length));

export function readProfileFacts(bytes: Uint8Array): ProfileFacts {
  const tags = tagsOf(bytes);
  const targ = tags.get('targ');
  const wtpt = tags.get('wtpt');
  return {
    version: `${bytes[8]}.${bytes[9]! >> 4}`,
    deviceClass: text(bytes, 12, 4),
    colourSpace: text(bytes, 16, 4).trim(),
    connection: text(bytes, 20, 4).trim(),
    description: words(tags.get('desc')),
    bytes: bytes.length,
    tags: [...tags.keys()],
    white: wtpt && wtpt.length >= 20 ? ([8, 12, 16].map((at) => fixed(wtpt, at)) as Triple) : null,
    measured: targ ? words(targ) : null
  };
}

const viewOf = (tag: Uint8Array) => new DataView(tag.buffer, tag.byteOffset, tag.byteLength);
const fixed = (tag: Uint8Array, at: number) => viewOf(tag).getInt32(at) / 65536;

/** The text of a tag of type text, desc or mluc. */
function words(tag: Uint8Array | undefined): string {
  if (!tag) return '';
  const view = viewOf(tag);
  const type = text(tag, 0, 4);
  const decoder = new TextDecoder('latin1');
  const plain = (part: Uint8Array) => decoder.decode(part).replace(/\0[^]*$/, '');
  if (type === 'text') return plain(tag.subarray(8));
  if (type === 'desc' && tag.length > 12) {
    const end = 12 + view.getUint32(8);
    // Behind the plain text, which has no accents, stands what it is in full, where its writer took the trouble (ICC.1:2001-04, 6.5.17).
    const count = end + 8 <= tag.length ? view.getUint32(end + 4) : 0;
    const full = count > 1 && end + 8 + count * 2 <= tag.length ? tag.subarray(end + 8, end + 8 + count * 2) : undefined;
    const words = full
      ? new TextDecoder('utf-16be')
          .decode(full)
          .replace(/\0[^]*$/, '')
          .trim()
      : '';
    return words || plain(tag.subarray(12, end));
  }
  if (type === 'mluc' && tag.length >= 28) {
    const length = view.getUint32(20);
    const from = view.getUint32(24);
    return from + length <= tag.length ? new TextDecoder('utf-16be').decode(tag.subarray(from, from + length)) : '';
  }
  return '';
}

export interface Lut {
  inputs: number;
  outputs: number;
  grid: number;
  inputTables: Float64Array[];
  outputTables: Float64Array[];
  /** grid^inputs × outputs, 0…1, first input slowest. */
  table: Float64Array;
}

/** @throws IccError when the table is of another type: mAB and mBA are left to a colour engine */
export function readLut(bytes: Uint8Array, name: string): Lut {
  const tag = tagsOf(bytes).get(name);
  if (!tag) throw new IccError(`The profile has no ${name}.`);
  const type = text(tag, 0, 4);
  if (type !== 'mft1' && type !== 'mft2') throw new IccError(`The profile’s ${name} is of type ${type}, which is not read here.`);
  const view = viewOf(tag);
  const [inputs, outputs, grid] = [tag[8]!, tag[9]!, tag[10]!];
  const wide = type === 'mft2';
  const inLength = wide ? view.getUint16(48) : 256;
  const outLength = wide ? view.getUint16(50) : 256;
  const size = wide ? 2 : 1;
  const count = grid ** inputs * outputs;
  const total = inLength * inputs + count + outLength * outputs;
  if (inputs < 1 || inputs > 4 || grid < 2 || (wide ? 52 : 48) + total * size > tag.length)
    throw new IccError(`The profile’s ${name} is cut off.`);
  let at = wide ? 52 : 48;
  const take = (length: number) => {
    const list = Float64Array.from({ length }, (_, i) => (wide ? view.getUint16(at + i * 2) / 65535 : tag[at + i]! / 255));
    at += length * size;
    return list;
  };
  const inputTables = Array.from({ length: inputs }, () => take(inLength));
  const table = take(count);
  return { inputs, outputs, grid, inputTables, table, outputTables: Array.from({ length: outputs }, () => take(outLength)) };
}

/**
 * Evaluates a table. Of inks: the last three inputs by tetrahedra (Sakamoto & Itooka 1981), a first of four linearly.
 * Of L*a*b*: along the axes one after the other, since tetrahedra share the diagonal and a* and b* have grey in their middle.
 */
export function evaluateLut(lut: Lut, input: readonly number[], along3: 'tetrahedra' | 'axes' = 'tetrahedra'): number[] {
  return mixLut(lut, input, along3).map((v, i) => readTable(lut.outputTables[i]!, v));
}

/** The same before the output tables. */
export function mixLut(lut: Lut, input: readonly number[], along3: 'tetrahedra' | 'axes'): number[] {
  const { inputs, outputs, grid, table } = lut;
  const last = grid - 1;
  const xs = input.map((v, i) => readTable(lut.inputTables[i]!, v) * last);
  const cells = xs.map((x) => Math.min(last - 1, Math.floor(x)));
  const shares = xs.map((x, i) => x - cells[i]!);
  const stride = (i: number) => grid ** (inputs - 1 - i) * outputs;
  const three = (base: number, first: number): number[] => {
    const order = Array.from({ length: inputs - first }, (_, i) => first + i).sort((p, q) => shares[q]! - shares[p]!);
    let at = base;
    let before = 1;
    const out = new Array<number>(outputs).fill(0);
    for (const i of [...order, -1]) {
      const share = i < 0 ? 0 : shares[i]!;
      for (let v = 0; v < outputs; v++) out[v] = out[v]! + (before - share) * table[at + v]!;
      before = share;
      if (i >= 0) at += stride(i);
    }
    return out;
  };
  const axes = (at: number, input: number): number[] => {
    if (input === inputs) return [...table.subarray(at, at + outputs)];
    const low = axes(at, input + 1);
    const high = axes(at + stride(input), input + 1);
    return low.map((v, i) => v + shares[input]! * (high[i]! - v));
  };
  const base = cells.reduce((sum, cell, i) => sum + cell * stride(i), 0);
  return along3 === 'axes'
    ? axes(base, 0)
    : inputs < 4
      ? three(base, 0)
      : three(base, 1).map((low, v) => low + shares[0]! * (three(base + stride(0), 1)[v]! - low));
}

/** A profile with other figures in a table of 8 or 16 bits. @param table of the size of its own, 0…1 */
export function writeLutTable(profile: Uint8Array, name: string, table: Float64Array): Uint8Array<ArrayBuffer> {
  const bytes = Uint8Array.from(profile);
  const tag = tagsOf(bytes).get(name);
  if (!tag) throw new IccError(`The profile has no ${name}.`);
  const { inputs, inputTables } = readLut(bytes, name);
  const isWide = text(tag, 0, 4) === 'mft2';
  const size = isWide ? 2 : 1;
  const from = (isWide ? 52 : 48) + inputs * inputTables[0]!.length * size;
  const view = viewOf(tag);
  table.forEach((v, i) => {
    if (isWide) view.setUint16(from + i * 2, Math.round(v * 65535));
    else tag[from + i] = Math.round(v * 255);
  });
  return bytes;
}

/** Inks 0…1 → L*a*b*, through A2B1 (relative colorimetric) of 16 bits. */
export function inksToLab(lut: Lut): (inks: readonly number[]) => Triple {
  return (inks) => {
    const [l, a, b] = evaluateLut(lut, inks) as Triple;
    return [(l * 65535) / 652.8, (a * 65535) / 256 - 128, (b * 65535) / 256 - 128];
  };
}

/** L*a*b* → inks 0…1, through a B2A of 16 bits. */
export function labToInks(lut: Lut): (lab: Readonly<Triple>) => number[] {
  return ([l, a, b]) => evaluateLut(lut, [(l * 652.8) / 65535, ((a + 128) * 256) / 65535, ((b + 128) * 256) / 65535], 'axes');
}

/** The darkest neutral that a profile prints, as inks 0…1: within its limit of ink. Nothing where its table is left to an engine. */
export function neutralBlack(profile: Uint8Array): number[] | undefined {
  try {
    return labToInks(readLut(profile, 'B2A1'))([0, 0, 0]).map((ink) => Math.min(1, Math.max(0, ink)));
  } catch (error) {
    if (error instanceof IccError) return undefined;
    throw error;
  }
}
