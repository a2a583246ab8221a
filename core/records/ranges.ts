/** Numbers of records as ranges that are typed: 1-20, 35, 40-. */

/** What cannot be said of records, in a sentence. */
export class SeriesError extends Error {
  override name = 'SeriesError';
}

export interface NumberRange {
  from: number;
  to: number;
}

/** No record has a higher number. */
const LAST = 9_999_999;

/** @param last ends a range that is open @throws SeriesError */
export function readRanges(text: string, last = LAST): NumberRange[] {
  return text
    .replace(/\s*[-–]\s*/g, '-')
    .split(/[,;\s]+/)
    .filter((part) => part !== '')
    .map((part) => {
      const found = /^(\d{0,7})(-?)(\d{0,7})$/.exec(part);
      const [, first = '', dash, second = ''] = found ?? [];
      if (!found || first + second === '' || (dash === '' && second !== ''))
        throw new SeriesError(`“${part}” is no range of records. It looks like 1-20, 35.`);
      const from = first === '' ? 1 : Number(first);
      const to = dash === '' ? from : second === '' ? last : Number(second);
      if (to < from) throw new SeriesError(`“${part}” ends before it begins.`);
      return { from, to };
    });
}

/** What is typed for ranges; those that touch or overlap are one. */
export function writeRanges(ranges: readonly NumberRange[]): string {
  const joined: NumberRange[] = [];
  for (const { from, to } of [...ranges].sort((p, q) => p.from - q.from)) {
    const before = joined.at(-1);
    if (before && from <= before.to + 1) before.to = Math.max(before.to, to);
    else joined.push({ from, to });
  }
  return joined.map(({ from, to }) => (to >= LAST ? `${from}-` : from === to ? String(from) : `${from}-${to}`)).join(', ');
}

/** Whether a record is among those that are printed; with nothing said all are. @throws SeriesError */
export function isPrinted(only: string, record: number): boolean {
  const ranges = readRanges(only);
  return ranges.length === 0 || ranges.some(({ from, to }) => record >= from && record <= to);
}

/**
 * What is said of the records that are printed, with one more or one fewer.
 *
 * @throws SeriesError where none would be left: nothing said is all of them
 */
export function withRecord(only: string, record: number, printed: boolean): string {
  const ranges = readRanges(only.trim() === '' ? '1-' : only);
  const next = printed
    ? [...ranges, { from: record, to: record }]
    : ranges.flatMap(({ from, to }) =>
        record < from || record > to
          ? [{ from, to }]
          : [
              { from, to: record - 1 },
              { from: record + 1, to }
            ].filter((part) => part.from <= part.to)
      );
  const text = writeRanges(next);
  if (text === '') throw new SeriesError('One record at least is printed.');
  return text === '1-' ? '' : text;
}

/** Numbers in any order as text, short where they rise by one: 1-20,35,7. `readNumbers` reads it. */
export function writeNumbers(numbers: Iterable<number>): string {
  const parts: string[] = [];
  let [from, to] = [NaN, NaN];
  const end = () => void (Number.isNaN(from) || parts.push(from === to ? `${from}` : `${from}-${to}`));
  for (const number of numbers) {
    if (number !== to + 1) {
      end();
      from = number;
    }
    to = number;
  }
  end();
  return parts.join();
}

/** What `writeNumbers` wrote. */
export const readNumbers = (text: string): number[] =>
  text === ''
    ? []
    : text.split(',').flatMap((part) => {
        const [from, to = from] = part.split('-').map(Number) as [number, number?];
        return Array.from({ length: to - from + 1 }, (_, i) => from + i);
      });
