import { dateLike, numberLike, readDate, readNumber } from './forms';
import { entryAt, entryFor, listNamed, type ShopList } from './lists';

/**
 * What a field says: a text with columns in it.
 *
 *     No. {number}            the value of a column
 *     {name, upper case}      … in capitals; also: lower case, each word
 *     {member, ticked}        a tick where it says yes, x or 1; else nothing
 *     {number, like 0042}     a number in the form of an example: digits, decimals, thousands
 *     {day, like 31.12.2026}  a date in the form of the last day of 2026, a Thursday
 *     {count, from 10, step 5, like 0001}   a counter
 *     {duty, in Duties}       what a list of the shop has for it; of a counter one entry after the other
 *     [c/o {contact}]         a part that goes where a value in it is empty
 *     \{ \} \[ \] \\          these signs themselves
 */

/** The counter's name: a column of the same name is not asked for. */
export const COUNTER = 'count';

const CASES = ['upper case', 'lower case', 'each word'] as const;

interface Value {
  is: 'value';
  column: string;
  letters?: (typeof CASES)[number] | undefined;
  like?: string | undefined;
  list?: string | undefined;
  ticked?: boolean;
}
interface Counter {
  is: 'counter';
  from: number;
  step: number;
  like?: string | undefined;
  list?: string | undefined;
}
interface Optional {
  is: 'optional';
  parts: Content;
}
export type Content = readonly (string | Value | Counter | Optional)[];

export const MOST_CONTENT = 2000;

/** A content that cannot be understood, and where in it. */
export class ContentError extends Error {
  override name = 'ContentError';
  readonly at: number;

  constructor(message: string, at: number) {
    super(message);
    this.at = at;
  }
}

/** @throws ContentError */
export function parseContent(text: string): Content {
  if (text.length > MOST_CONTENT) throw new ContentError(`A field’s text has at most ${MOST_CONTENT} characters.`, MOST_CONTENT);
  let at = 0;
  const parts = (optional: boolean, opened: number): Content => {
    const found: Content[number][] = [];
    let plain = '';
    const put = () => {
      if (plain !== '') found.push(plain);
      plain = '';
    };
    for (; at < text.length; at++) {
      const sign = text[at]!;
      if (sign === '\\' && at + 1 < text.length) plain += text[++at]!;
      else if (sign === '{') {
        const end = text.indexOf('}', at);
        if (end < 0) throw new ContentError('A { is never closed.', at);
        put();
        found.push(valueOf(text.slice(at + 1, end), at));
        at = end;
      } else if (sign === '[') {
        if (optional) throw new ContentError('A part that may go cannot have another within it.', at);
        put();
        const opens = at++;
        found.push({ is: 'optional', parts: parts(true, opens) });
      } else if (sign === ']' && optional) {
        put();
        return found;
      } else if (sign === ']' || sign === '}')
        throw new ContentError(`A ${sign} closes nothing; for the sign itself write \\${sign}.`, at);
      else plain += sign;
    }
    if (optional) throw new ContentError('A [ is never closed.', opened);
    put();
    return found;
  };
  return parts(false, 0);
}

function valueOf(inner: string, at: number): Value | Counter {
  const [column = '', ...said] = inner.split(',').map((part) => part.trim());
  // An example may have commas: what follows `like` belongs to it.
  const like = /,\s*like\s+(.*)$/s.exec(inner)?.[1]?.trim();
  const others =
    like === undefined
      ? said
      : said.slice(
          0,
          said.findIndex((part) => /^like\s/.test(part))
        );
  if (column === '') throw new ContentError('Between { and } stands the name of a column.', at);
  if (like === '') throw new ContentError('After “like” stands an example.', at);
  if (column === COUNTER) {
    const counter: Counter = { is: 'counter', from: 1, step: 1, like };
    for (const part of others) {
      const list = listIn(part, at);
      if (list !== undefined) {
        counter.list = list;
        continue;
      }
      const [, what, figure] = /^(from|step)\s+(-?\d{1,9})$/.exec(part) ?? [];
      if (!what)
        throw new ContentError(
          `A counter has “from”, “step” and “like”, each with a number, and “in” a list, not “${part}”.`,
          at
        );
      counter[what as 'from' | 'step'] = Number(figure);
    }
    return counter;
  }
  const value: Value = { is: 'value', column, like };
  for (const part of others) {
    const list = listIn(part, at);
    if (list !== undefined) {
      value.list = list;
      continue;
    }
    if (part.toLowerCase() === 'ticked') {
      value.ticked = true;
      continue;
    }
    const letters = CASES.find((one) => one === part.toLowerCase());
    if (!letters)
      throw new ContentError(`A value is ${CASES.join(', ')}, ticked, “in” a list or “like” an example, not “${part}”.`, at);
    value.letters = letters;
  }
  return value;
}

/** The list that a part of a value names; nothing where it is about something else. */
function listIn(part: string, at: number): string | undefined {
  const [, name] = /^in(?:\s+(.*))?$/i.exec(part) ?? [];
  if (name === undefined && !/^in$/i.test(part)) return undefined;
  if (!name) throw new ContentError('After “in” stands the name of a list.', at);
  return name;
}

/** The lists of the shop that a content asks for, each once. */
export const listsOf = (content: Content): string[] => [
  ...new Set(
    content.flatMap((part) =>
      typeof part === 'string' ? [] : part.is === 'optional' ? listsOf(part.parts) : part.list === undefined ? [] : [part.list]
    )
  )
];

/** The columns that a content asks for, each once, in its order. */
export const columnsOf = (content: Content): string[] => [
  ...new Set(
    content.flatMap((part) =>
      typeof part === 'string' || part.is === 'counter' ? [] : part.is === 'value' ? [part.column] : columnsOf(part.parts)
    )
  )
];

/** What a content comes to for one record. */
export interface Filled {
  text: string;
  /** Columns that have no value here and stand outside of the parts that may go. */
  empty: string[];
  /** Columns whose value is no number or date as their form asks, or not in their list. */
  unlike: string[];
}

/**
 * @param value of a column; nothing where the table has none of the name
 * @param place of the record, from 0, for counters
 * @param lists of the shop
 */
export function fill(
  content: Content,
  value: (column: string) => string | undefined,
  place: number,
  lists: readonly ShopList[] = []
): Filled {
  const empty: string[] = [];
  const unlike: string[] = [];
  const textOf = (part: Content[number]): string => {
    if (typeof part === 'string') return part;
    if (part.is === 'counter') {
      const count = part.from + place * part.step;
      if (part.list !== undefined) {
        const list = listNamed(lists, part.list);
        const entry = list && entryAt(list, count);
        if (entry === undefined) unlike.push(COUNTER);
        return entry ?? String(count);
      }
      return part.like === undefined ? String(count) : (numberLike(count, part.like) ?? String(count));
    }
    if (part.is === 'optional') {
      if (columnsOf(part.parts).some((column) => (value(column) ?? '').trim() === '')) return '';
      return part.parts.map(textOf).join('');
    }
    const raw = (value(part.column) ?? '').trim();
    if (part.ticked) return YES.test(raw) ? TICK : '';
    if (raw === '') {
      empty.push(part.column);
      return '';
    }
    const said = part.list === undefined ? raw : listed(raw, part.list, part.column);
    return lettered(part.like === undefined ? said : liked(said, part.like, part.column), part.letters);
  };
  const listed = (raw: string, name: string, column: string): string => {
    const list = listNamed(lists, name);
    const entry = list && entryFor(list, raw);
    if (entry === undefined) unlike.push(column);
    return entry ?? raw;
  };
  const liked = (raw: string, like: string, column: string): string => {
    const number = readNumber(raw);
    const made = number === undefined ? undefined : numberLike(number, like);
    if (made !== undefined) return made;
    const date = readDate(raw);
    const dated = date && dateLike(date, like);
    if (dated !== undefined) return dated;
    unlike.push(column);
    return raw;
  };
  const text = content.map(textOf).join('');
  return { text, empty, unlike };
}

const TICK = '✓';
/** As tables say yes, in the languages of the trade’s customers. */
const YES = /^(x|1|y|yes|true|on|✓|✔|☑|j|ja|wahr|oui|vrai|s[iíì]|sim|da)$/i;

function lettered(text: string, letters: Value['letters']): string {
  switch (letters) {
    case 'upper case':
      return text.toLocaleUpperCase('en');
    case 'lower case':
      return text.toLocaleLowerCase('en');
    case 'each word':
      return text
        .toLocaleLowerCase('en')
        .replace(/(^|[\s\-–’'(/])(\p{L})/gu, (_, before: string, first: string) => before + first.toLocaleUpperCase('en'));
    default:
      return text;
  }
}
