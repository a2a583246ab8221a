import { z } from 'zod';
import type { Inks } from './separation';
import { xyzToLab, type Triple } from './lab';

/** Measured patches as CGATS.17 text (ANSI CGATS.17-2009, ISO 28178): written by the instrument, kept in the profile. */

export interface MeasuredPatch {
  id: string;
  inks: Inks | null;
  /** L*a*b* under D50, against the perfect reflector. */
  lab: Triple;
}

export interface CgatsData {
  /** Keywords of the head, as ORIGINATOR or INSTRUMENTATION. */
  head: Record<string, string>;
  patches: MeasuredPatch[];
}

export class CgatsError extends Error {
  override name = 'CgatsError';
}

/** More than any chart has, and any list of colours. */
const MOST_PATCHES = 60_000;
const MOST_BYTES = 8e6;

export function writeCgats(data: CgatsData): string {
  const inks = data.patches.every((patch) => patch.inks);
  const fields = ['SAMPLE_ID', ...(inks ? ['CMYK_C', 'CMYK_M', 'CMYK_Y', 'CMYK_K'] : []), 'LAB_L', 'LAB_A', 'LAB_B'];
  const quote = (text: string) => `"${text.replace(/"/g, "'").replace(/[\r\n]+/g, ' ')}"`;
  return [
    'CGATS.17',
    ...Object.entries(data.head).map(([key, value]) => `${key}\t${quote(value)}`),
    `NUMBER_OF_FIELDS\t${fields.length}`,
    'BEGIN_DATA_FORMAT',
    fields.join('\t'),
    'END_DATA_FORMAT',
    `NUMBER_OF_SETS\t${data.patches.length}`,
    'BEGIN_DATA',
    ...data.patches.map((patch) =>
      [
        /^[\w.-]+$/.test(patch.id) ? patch.id : quote(patch.id),
        ...(inks ? (patch.inks as Inks).map((v) => (v * 100).toFixed(3)) : []),
        ...patch.lab.map((v) => v.toFixed(4))
      ].join('\t')
    ),
    'END_DATA',
    ''
  ].join('\n');
}

/**
 * Reads CGATS text: columns by their names in any order, any line ends, comments and unknown keywords passed over.
 * Colours come from LAB_*, or from XYZ_* (of a white of 100).
 *
 * @param called which column tells patches apart: their numbers, or, where there is one, their names
 * @throws CgatsError with the line and what is wrong
 */
export function readCgats(text: string, called: 'numbers' | 'names' = 'numbers'): CgatsData {
  if (text.length > MOST_BYTES)
    throw new CgatsError(`The file has ${(text.length / 1e6).toFixed(0)} MB; ${MOST_BYTES / 1e6} MB is the most.`);
  const head: Record<string, string> = {};
  const patches: MeasuredPatch[] = [];
  let fields: string[] = [];
  let part: 'head' | 'format' | 'data' = 'head';
  let seenData = false;
  const lines = text.split(/\r\n|\r|\n/);
  for (const [index, line] of lines.entries()) {
    // What follows # is a comment, but not within quotation marks or a word: colours are called “Red #3”.
    const words = [...line.matchAll(/"([^"]*)"|#.*|(\S+)/g)].flatMap((match) => match[1] ?? match[2] ?? []);
    const [first] = words;
    if (first === undefined) continue;
    if (first === 'BEGIN_DATA_FORMAT') part = 'format';
    else if (first === 'END_DATA_FORMAT') part = 'head';
    else if (first === 'BEGIN_DATA') {
      // A file may hold several tables; the first with colours counts.
      if (seenData) break;
      part = 'data';
      seenData = true;
    } else if (first === 'END_DATA') part = 'head';
    else if (part === 'format') fields = fields.concat(words.map((word) => word.toUpperCase()));
    else if (part === 'head') {
      if (words.length > 1 && /^[A-Z_]+$/.test(first)) head[first] = words.slice(1).join(' ');
    } else {
      if (patches.length >= MOST_PATCHES) throw new CgatsError(`There are more than ${MOST_PATCHES} patches.`);
      patches.push(readPatch(fields, words, index + 1, patches.length, NAMED[called]));
    }
  }
  if (!seenData) throw new CgatsError('There is no BEGIN_DATA: this is not a file of measured patches.');
  if (patches.length === 0) throw new CgatsError('The file has no patches.');
  return { head, patches };
}

const figure = z.coerce.number().min(-1000).max(1000);

const NUMBERED = ['SAMPLE_ID', 'SAMPLE_NAME', 'SAMPLEID'];
const NAMED = { numbers: NUMBERED, names: ['SAMPLE_NAME', ...NUMBERED] };

function readPatch(
  fields: readonly string[],
  words: readonly string[],
  line: number,
  place: number,
  called: readonly string[]
): MeasuredPatch {
  if (words.length < fields.length)
    throw new CgatsError(`Line ${line} has ${words.length} figures; ${fields.length} columns are named.`);
  const value = (name: string): number | undefined => {
    const at = fields.indexOf(name);
    if (at < 0) return undefined;
    const read = figure.safeParse((words[at] ?? '').replace(',', '.'));
    if (!read.success || words[at] === '')
      throw new CgatsError(`Line ${line}: ${name} is “${words[at]}”, which is not a figure.`);
    return read.data;
  };
  const three = (names: string[]) => {
    const values = names.map(value);
    return values.every((v) => v !== undefined) ? (values as Triple) : undefined;
  };
  const xyz = three(['XYZ_X', 'XYZ_Y', 'XYZ_Z']);
  const lab = three(['LAB_L', 'LAB_A', 'LAB_B']) ?? (xyz && xyzToLabOf(xyz));
  if (!lab) throw new CgatsError('The file has neither L*a*b* (LAB_L, LAB_A, LAB_B) nor XYZ columns.');
  const inks = ['CMYK_C', 'CMYK_M', 'CMYK_Y', 'CMYK_K'].map(value);
  const idAt = called.map((name) => fields.indexOf(name)).find((at) => at >= 0);
  return {
    id: (idAt === undefined ? undefined : words[idAt]) ?? String(place + 1),
    inks: inks.every((v) => v !== undefined) ? (inks.map((v) => Math.min(1, Math.max(0, v / 100))) as Inks) : null,
    lab
  };
}

const xyzToLabOf = (xyz: Triple): Triple => xyzToLab(xyz.map((v) => v / 100) as Triple);
