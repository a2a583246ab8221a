import bwipjs from 'bwip-js/generic';
import encodeQr from 'qr';
import { rectangles, type Rectangle } from '../marks/lettering';
import { MM_PER_INCH } from '../units/length';
import type { CodeKind, Correction } from './code-kinds';

/** Codes that readers read, as modules: squares of a grid, or bars. */

/** The encoder’s name of each, and the modules that stay white around it by its standard. */
const QR_QUIET = 4;
const MADE: Record<Exclude<CodeKind, 'QR'>, { bcid: string; quiet: number }> = {
  'Data Matrix': { bcid: 'datamatrix', quiet: 1 },
  Aztec: { bcid: 'azteccode', quiet: 1 },
  PDF417: { bcid: 'pdf417', quiet: 2 },
  'Code 128': { bcid: 'code128', quiet: 10 },
  'Code 39': { bcid: 'code39', quiet: 10 },
  'EAN-13': { bcid: 'ean13', quiet: 11 },
  'EAN-8': { bcid: 'ean8', quiet: 7 },
  'UPC-A': { bcid: 'upca', quiet: 9 },
  'ITF-14': { bcid: 'itf14', quiet: 10 },
  'GS1-128': { bcid: 'gs1-128', quiet: 10 },
  'GS1 Data Matrix': { bcid: 'gs1datamatrix', quiet: 1 }
};

/** A value that has no code of a kind, or no room for it. */
export class CodeError extends Error {
  override name = 'CodeError';
}

/** Modules from the top left, 1 is dark. Bars are one row. */
export interface CodeModules {
  columns: number;
  rows: number;
  dark: Uint8Array;
  /** Bars are as high as their place. */
  bars: boolean;
  /** Modules that stay white on each side. */
  quiet: number;
}

/** Figures that a kind takes, check digit included: the last may be left out, and is worked out then. */
const DIGITS: Partial<Record<CodeKind, number>> = { 'EAN-13': 13, 'EAN-8': 8, 'UPC-A': 12, 'ITF-14': 14 };

/** The check digit of figures by ISO/IEC 15420: threes and ones by turns, from the right. */
export function checkDigit(figures: string): number {
  const sum = [...figures].reverse().reduce((all, figure, i) => all + Number(figure) * (i % 2 === 0 ? 3 : 1), 0);
  return (10 - (sum % 10)) % 10;
}

/** What is encoded: of figures with their check digit. @throws CodeError in a sentence */
export function encoded(kind: CodeKind, value: string): string {
  const digits = DIGITS[kind];
  if (digits === undefined) return value;
  const figures = value.replace(/[\s-]/g, '');
  if (!/^\d+$/.test(figures) || (figures.length !== digits && figures.length !== digits - 1))
    throw new CodeError(`${kind} has ${digits - 1} figures and a check digit; “${value.slice(0, 40)}” is none.`);
  const own = checkDigit(figures.slice(0, digits - 1));
  if (figures.length === digits && Number(figures.at(-1)) !== own)
    throw new CodeError(`The check digit of “${value}” is ${own}, not ${figures.at(-1)}.`);
  return figures.slice(0, digits - 1) + String(own);
}

/** @throws CodeError in a sentence where a value has no code of the kind */
export function codeModules(kind: CodeKind, value: string, correction: Correction = 'middle'): CodeModules {
  if (value.trim() === '') throw new CodeError('There is nothing to encode.');
  const text = encoded(kind, value);
  if (kind === 'QR') return qrModules(text, correction);
  const { bcid, quiet } = MADE[kind];
  let symbol;
  try {
    [symbol] = bwipjs.raw({ bcid, text });
  } catch (error) {
    throw new CodeError(`“${value.slice(0, 40)}” has no ${kind}: ${reasonOf(error)}.`);
  }
  if (!symbol) throw new CodeError(`“${value.slice(0, 40)}” has no ${kind}.`);
  if ('pixs' in symbol)
    return { columns: symbol.pixx, rows: symbol.pixy, dark: Uint8Array.from(symbol.pixs), bars: false, quiet };
  // Bars and the spaces between them by turns, a bar first.
  const dark = symbol.sbs.flatMap((width, i) => new Array<number>(width).fill(i % 2 === 0 ? 1 : 0));
  while (dark.at(-1) === 0) dark.pop();
  return { columns: dark.length, rows: 1, dark: Uint8Array.from(dark), bars: true, quiet };
}

const ECC = { low: 'low', middle: 'medium', high: 'quartile', highest: 'high' } as const;

/** A QR code, by an encoder that is quick enough for ten thousand of them. */
function qrModules(text: string, correction: Correction): CodeModules {
  // It draws white around it, a module at least.
  let drawn: boolean[][];
  try {
    drawn = encodeQr(text, 'raw', { ecc: ECC[correction], border: 1 });
  } catch {
    throw new CodeError(`“${text.slice(0, 40)}…” has no QR: it is too long.`);
  }
  const rows = drawn.slice(1, -1).map((row) => row.slice(1, -1));
  const dark = Uint8Array.from(rows.flat(), Number);
  return { columns: rows.length, rows: rows.length, dark, bars: false, quiet: QR_QUIET };
}

/** The encoder’s own words, without its names. */
function reasonOf(error: unknown): string {
  const text = error instanceof Error ? error.message : String(error);
  const said = text.replace(/^bwipp\.\w+(#\d+)?:\s*/, '').trim();
  return said === '' ? 'it cannot be encoded' : said.charAt(0).toLowerCase() + said.slice(1).replace(/\.$/, '');
}

/** A code at its place: dark rectangles, mm from the place’s top left corner. */
export interface LaidCode {
  /** The side of a module, mm. */
  module: number;
  dark: Rectangle[];
}

/**
 * The code as large as its place takes it, in its middle, white around it as its standard asks.
 *
 * @param dpi modules are whole drops of it
 * @param thinner bars are thinner by this, mm, in whole drops; never by more than half of the thinnest
 * @throws CodeError where a module would be less than a drop
 */
export function layCode(
  code: CodeModules,
  place: { width: number; height: number },
  dpi: number | undefined,
  thinner = 0
): LaidCode {
  const across = code.columns + 2 * code.quiet;
  const down = code.rows + 2 * code.quiet;
  const room = code.bars ? place.width / across : Math.min(place.width / across, place.height / down);
  const drop = dpi === undefined ? 0 : MM_PER_INCH / dpi;
  // A place that was made for whole drops is not a drop too small for them.
  const module = drop === 0 ? room : Math.floor(room / drop + 1e-6) * drop;
  if (module <= 0)
    throw new CodeError(
      `The code has ${code.columns} modules across, and its place ${place.width.toFixed(1)} mm: a module would be less than a drop. Make the place larger.`
    );
  const on = (mm: number) => (drop === 0 ? mm : Math.round(mm / drop) * drop);
  const x = on((place.width - code.columns * module) / 2);
  const y = code.bars ? 0 : on((place.height - code.rows * module) / 2);
  const dark = rectangles(code.dark, code.columns, module).map((one) => ({
    ...one,
    x: one.x + x,
    y: one.y + y,
    ...(code.bars && { height: place.height })
  }));
  const less = code.bars ? Math.min(on(thinner), on(module / 2)) : 0;
  // From the right edge alone: the left ones stay on their drops.
  for (const bar of dark) bar.width -= less;
  return { module, dark };
}
