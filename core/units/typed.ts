import { MM_PER, MM_PER_INCH, type LengthUnit } from './length';

/** Reads figures and lengths as people type them: `350`, `12,5`, `1.2m`, `4' 6"`, and sums of them (`3*85+10`). */

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

/** What was typed is none, in a sentence for the person who typed it. */
export class FigureError extends Error {
  override name = 'FigureError';
}

/** What is asked for, for the sentences. */
interface Wanted {
  /** With its article. */
  what: string;
  example: string;
}

type Token = { kind: 'number'; value: number } | { kind: 'unit'; unit: LengthUnit } | { kind: 'sign'; sign: string };

function tokens(text: string, { what, example }: Wanted): Token[] {
  const found: Token[] = [];
  const pattern = /\s*(?:(\d+(?:[.,]\d+)?|[.,]\d+)|([a-z]+|["'″′])|([-+*/()×−]))/giy;
  let at = 0;
  while (at < text.trimEnd().length) {
    pattern.lastIndex = at;
    const match = pattern.exec(text);
    if (!match) throw new FigureError(`“${text.trim()}” is not ${what}. Write a figure such as ${example}.`);
    at = pattern.lastIndex;
    if (match[1]) found.push({ kind: 'number', value: figure(match[1]) });
    else if (match[2]) {
      const unit = UNIT_WORDS[match[2].toLowerCase()];
      if (!unit) throw new FigureError(`“${match[2]}” is not a unit known here. Use mm, cm, m, in or ft.`);
      found.push({ kind: 'unit', unit });
    } else found.push({ kind: 'sign', sign: { '×': '*', '−': '-' }[match[3]!] ?? match[3]! });
  }
  return found;
}

/** A figure with a decimal point or comma. @throws FigureError for one that people write to mean either */
function figure(text: string): number {
  if (/^[1-9]\d{0,2},\d{3}$/.test(text))
    throw new FigureError(
      `“${text}” may be ${text.replace(',', '')} or ${Number(text.replace(',', '.'))}. Write it without the comma.`
    );
  return Number(text.replace(',', '.'));
}

/** A value with its dimension: a bare factor, or a length in millimetres. */
interface Quantity {
  value: number;
  isLength: boolean;
}

/**
 * Works out what is typed.
 *
 * @param mmPerBare what a bare figure beside a length is, as in `2+10mm`
 * @throws FigureError with a sentence for the person who typed it
 */
function workOut(text: string, mmPerBare: number, wanted: Wanted): Quantity {
  const list = tokens(text, wanted);
  if (list.length === 0) throw new FigureError(`Type ${wanted.what}, for example ${wanted.example}.`);
  let at = 0;
  const fail = () => new FigureError(`“${text.trim()}” cannot be worked out. Write a figure such as ${wanted.example}.`);

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

  const asLength = (q: Quantity): number => (q.isLength ? q.value : q.value * mmPerBare);

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
  if (at !== list.length || !Number.isFinite(result.value)) throw fail();
  return result;
}

const LENGTH: Wanted = { what: 'a length', example: '350, 1.2m, 48in or 3*85+10' };

/**
 * Reads a length as people write it: `1.2m`, `48in`, `4' 6"`, `350` (in `unit`) and sums (`3*85+10`).
 *
 * @returns millimetres
 * @throws FigureError with a sentence for the person who typed it
 */
export function parseLength(text: string, unit: LengthUnit = 'mm'): number {
  const { value, isLength } = workOut(text, MM_PER[unit], LENGTH);
  return isLength ? value : value * MM_PER[unit];
}

const FIGURE: Wanted = { what: 'a figure', example: '12, 2.5 or 3*8+10' };

const isLengthUnit = (unit: string): unit is LengthUnit => Object.hasOwn(MM_PER, unit);

/**
 * Reads a figure: `40`, `12,5`, `3*8+10`, with or without the unit that stands beside its box. Where that is one of length, it may
 * be typed in any.
 *
 * @returns in `unit`
 * @throws FigureError with a sentence for the person who typed it
 */
export function parseFigure(text: string, unit = ''): number {
  if (isLengthUnit(unit)) return parseLength(text, unit) / MM_PER[unit];
  const bare = text.trim();
  const hasUnit = unit !== '' && bare.toLowerCase().endsWith(unit.toLowerCase());
  const { value, isLength } = workOut(hasUnit ? bare.slice(0, -unit.length) : bare, 1, FIGURE);
  if (isLength) throw new FigureError(`“${bare}” is a length. Write a figure such as ${FIGURE.example}.`);
  return value;
}
