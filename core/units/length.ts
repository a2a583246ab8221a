/** Lengths are millimetres throughout; this module reads and prints the units that people write. */

export const MM_PER_INCH = 25.4;
export const MM_PER_POINT = 25.4 / 72;

export type LengthUnit = 'mm' | 'cm' | 'm' | 'in' | 'ft' | 'pt';

const MM_PER: Record<LengthUnit, number> = {
  mm: 1,
  cm: 10,
  m: 1000,
  in: MM_PER_INCH,
  ft: 12 * MM_PER_INCH,
  pt: MM_PER_POINT
};

const UNIT_WORDS: Record<string, LengthUnit> = {
  mm: 'mm',
  cm: 'cm',
  m: 'm',
  in: 'in',
  inch: 'in',
  inches: 'in',
  '"': 'in',
  '″': 'in',
  ft: 'ft',
  feet: 'ft',
  foot: 'ft',
  "'": 'ft',
  '′': 'ft',
  pt: 'pt'
};

export class LengthError extends Error {
  override name = 'LengthError';
}

type Token = { kind: 'number'; value: number } | { kind: 'unit'; unit: LengthUnit } | { kind: 'sign'; sign: string };

function tokens(text: string): Token[] {
  const found: Token[] = [];
  const pattern = /\s*(?:(\d+(?:[.,]\d+)?|[.,]\d+)|([a-z]+|["'″′])|([-+*/()×]))/giy;
  let at = 0;
  while (at < text.trimEnd().length) {
    pattern.lastIndex = at;
    const match = pattern.exec(text);
    if (!match) throw new LengthError(`“${text.trim()}” is not a length. Write a figure such as 350, 1.2m, 48in or 3*85+10.`);
    at = pattern.lastIndex;
    if (match[1]) found.push({ kind: 'number', value: figure(match[1]) });
    else if (match[2]) {
      const unit = UNIT_WORDS[match[2].toLowerCase()];
      if (!unit) throw new LengthError(`“${match[2]}” is not a unit known here. Use mm, cm, m, in or ft.`);
      found.push({ kind: 'unit', unit });
    } else found.push({ kind: 'sign', sign: match[3] === '×' ? '*' : (match[3] ?? '') });
  }
  return found;
}

/** A figure with a decimal point or comma. @throws LengthError for one that people write to mean either */
function figure(text: string): number {
  if (/^[1-9]\d{0,2},\d{3}$/.test(text))
    throw new LengthError(
      `“${text}” may be ${text.replace(',', '')} or ${Number(text.replace(',', '.'))}. Write it without the comma.`
    );
  return Number(text.replace(',', '.'));
}

/** A value with its dimension: 0 for a bare factor, 1 for a length in millimetres. */
interface Quantity {
  value: number;
  isLength: boolean;
}

/**
 * Reads a length as people write it: `1.2m`, `48in`, `4' 6"`, `350` (in `unit`) and sums (`3*85+10`).
 *
 * @returns millimetres
 * @throws LengthError with a sentence for the person who typed it
 */
export function parseLength(text: string, unit: LengthUnit = 'mm'): number {
  const list = tokens(text);
  if (list.length === 0) throw new LengthError('Type a length, for example 350 or 1.2m.');
  let at = 0;
  const fail = () => new LengthError(`“${text.trim()}” cannot be worked out. Write a figure such as 350, 1.2m, 48in or 3*85+10.`);

  function atom(): Quantity {
    const token = list[at++];
    if (token?.kind === 'sign' && token.sign === '(') {
      const inner = sum();
      const close = list[at++];
      if (close?.kind !== 'sign' || close.sign !== ')') throw fail();
      return inner;
    }
    if (token?.kind === 'sign' && token.sign === '-') {
      const inner = atom();
      return { ...inner, value: -inner.value };
    }
    if (token?.kind !== 'number') throw fail();
    const next = list[at];
    if (next?.kind !== 'unit') return { value: token.value, isLength: false };
    at++;
    let millimetres = token.value * MM_PER[next.unit];
    // 4' 6" is one length: an inch figure directly after feet belongs to it.
    const more = list[at];
    const moreUnit = list[at + 1];
    if (next.unit === 'ft' && more?.kind === 'number' && (moreUnit?.kind !== 'unit' || moreUnit.unit === 'in')) {
      millimetres += more.value * MM_PER_INCH;
      at += moreUnit?.kind === 'unit' ? 2 : 1;
    }
    return { value: millimetres, isLength: true };
  }

  function product(): Quantity {
    let left = atom();
    for (;;) {
      const token = list[at];
      if (token?.kind !== 'sign' || (token.sign !== '*' && token.sign !== '/')) return left;
      at++;
      const right = atom();
      if (token.sign === '*') {
        if (left.isLength && right.isLength) throw fail();
        left = { value: left.value * right.value, isLength: left.isLength || right.isLength };
      } else {
        if (right.isLength || right.value === 0) throw fail();
        left = { value: left.value / right.value, isLength: left.isLength };
      }
    }
  }

  const asLength = (q: Quantity): number => (q.isLength ? q.value : q.value * MM_PER[unit]);

  function sum(): Quantity {
    let left = product();
    for (;;) {
      const token = list[at];
      if (token?.kind !== 'sign' || (token.sign !== '+' && token.sign !== '-')) return left;
      at++;
      const right = product();
      const factor = token.sign === '+' ? 1 : -1;
      // Bare figures stay bare, so that (2+1)*85mm is a length and 3*85+10 takes the shop's unit once.
      left =
        left.isLength || right.isLength
          ? { value: asLength(left) + factor * asLength(right), isLength: true }
          : { value: left.value + factor * right.value, isLength: false };
    }
  }

  const result = sum();
  if (at !== list.length) throw fail();
  const millimetres = asLength(result);
  if (!Number.isFinite(millimetres)) throw fail();
  return millimetres;
}

const DECIMALS: Record<LengthUnit, number> = { mm: 1, cm: 2, m: 3, in: 3, ft: 3, pt: 1 };

/** Prints a length for a person, without needless zeros: `90 mm`, `1.04 m`. */
export function formatLength(mm: number, unit: LengthUnit = 'mm', decimals = DECIMALS[unit]): string {
  return `${formatFigure(mm / MM_PER[unit], decimals)} ${unit}`;
}

/** Prints metres for roll lengths: always two decimals, as on a tape. */
export function formatMetres(mm: number): string {
  return `${(mm / 1000).toFixed(2)} m`;
}

/** A figure with at most `decimals` places and no trailing zeros. */
export function formatFigure(value: number, decimals: number): string {
  const text = value.toFixed(decimals);
  const trimmed = text.includes('.') ? text.replace(/\.?0+$/, '') : text;
  return trimmed === '-0' ? '0' : trimmed;
}

/** Device pixels that cover a length, rounded to the nearest whole pixel. */
export function pixels(mm: number, dpi: number): number {
  return Math.round((mm * dpi) / MM_PER_INCH);
}
