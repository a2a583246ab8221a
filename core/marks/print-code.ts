import type { Box } from '../geometry/box';
import type { Mark } from './print-list';
import type { MarkRule } from './registration';

/**
 * The code of a print that will be cut: 45 bits and a check, the same on all prints of the same plates. A Data Matrix at the
 * head and the foot, beside the marks, and along a long run; the number in letters for people.
 */

/** Figures and capitals without I, L, O and U, which are taken for others (Crockford's base 32). */
const LETTERS = '0123456789ABCDEFGHJKMNPQRSTVWXYZ';
const OF_NUMBER = 9;
/** For people it stands in two parts. */
export const PART_LETTERS = 5;

/** Twice a value in the field of 32 (x⁵ + x² + 1), so that any one wrong letter and any two that changed places are told. */
const doubled = (value: number): number => (value << 1 >= 32 ? (value << 1) ^ 0b100101 : value << 1);
const checkOf = (values: readonly number[]): number => values.reduce((sum, value) => doubled(sum ^ value), 0);

/** @param bytes six at least, as random as a hash; 45 bits of them are used */
export function printCode(bytes: Uint8Array): string {
  let bits = 0n;
  for (const byte of bytes.subarray(0, 6)) bits = (bits << 8n) | BigInt(byte);
  const values = Array.from({ length: OF_NUMBER }, (_, i) => Number((bits >> BigInt(5 * i)) & 31n));
  return [...values, checkOf(values)].map((value) => LETTERS[value]).join('');
}

/** As it is kept, from what a camera read or a person typed; nothing where its check is wrong. */
export function readPrintCode(text: string): string | undefined {
  const plain = text.toUpperCase().replace(/[\s-]/g, '').replaceAll('O', '0').replace(/[IL]/g, '1');
  const values = [...plain].map((letter) => LETTERS.indexOf(letter));
  if (values.length !== OF_NUMBER + 1 || values.includes(-1)) return undefined;
  return checkOf(values.slice(0, OF_NUMBER)) === values[OF_NUMBER] ? plain : undefined;
}

/** For people: in two parts. */
export const shownCode = (code: string): string => `${code.slice(0, PART_LETTERS)}-${code.slice(PART_LETTERS)}`;

/** A module; ten letters take 14 of them as a Data Matrix (ISO/IEC 16022), 21 as a QR code (ISO/IEC 18004), and white around. */
const MODULE_MM = 0.6;
const SIZES = {
  datamatrix: { side: 14 * MODULE_MM, white: 1 },
  qrcode: { side: 21 * MODULE_MM, white: 4 * MODULE_MM }
};
export const codeSize = ({ code = 'datamatrix' }: Pick<MarkRule, 'code'>): { side: number; white: number } => SIZES[code];
/** Room that a code takes beside the artwork. */
export function codeRoom(rule: Pick<MarkRule, 'code'>): number {
  const { side, white } = codeSize(rule);
  return side + 2 * white;
}
/** Along a run there is one at least so often. */
const EVERY_MM = 2000;
export const LETTERS_MM = 2;
/** What the widest five letters take. */
export const LETTERS_WIDE_MM = 13.5;

/** Where codes stand, and the number beside each where there is room. */
export interface CodePlaces {
  codes: Box[];
  letters: { x: number; y: number }[];
}

/**
 * @param marks those around the pieces, as they are printed
 * @param pieces what they stand around
 */
export function codePlaces(marks: readonly Mark[], pieces: readonly Box[], rule: MarkRule): CodePlaces {
  const places: CodePlaces = { codes: [], letters: [] };
  if (marks.length === 0) return places;
  const xs = marks.map(({ x }) => x);
  const [left, right] = [Math.min(...xs), Math.max(...xs)];
  const top = pieces.reduce((least, { y }) => Math.min(least, y), Infinity);
  const bottom = pieces.reduce((most, { y, height }) => Math.max(most, y + height), -Infinity);
  const side = pieces.reduce((least, { x }) => Math.min(least, x), Infinity);
  const { side: size, white } = codeSize(rule);
  const clear = rule.diameter / 2 + rule.quiet + white;
  // The mark nearest to the corner, from the left, at the head and the foot.
  const inner = Math.max(left, ...xs.filter((x) => x < right - 2 * rule.diameter));
  const x = right - clear - size;
  if (x - white >= inner + clear - white)
    for (const y of [top - white - size, bottom + white]) {
      places.codes.push({ x, y, width: size, height: size });
      const beside = x - white - LETTERS_WIDE_MM;
      if (beside >= inner + clear) places.letters.push({ x: beside, y: y + 1 });
    }
  const rows = [...new Set(marks.filter((mark) => mark.x === left).map(({ y }) => y))].sort((a, b) => a - b);
  let last = top;
  rows.forEach((from, i) => {
    const to = rows[i + 1];
    if (to === undefined) return;
    const y = (from + to) / 2;
    if (y - last < EVERY_MM || bottom - y < EVERY_MM / 2 || to - from < 2 * clear + size) return;
    places.codes.push({ x: side - white - size, y: y - size / 2, width: size, height: size });
    last = y;
  });
  return places;
}
