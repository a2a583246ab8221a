import type { RecordChoices } from './choices';
import { matchNames } from './names';
import { plainName } from '../units/names';
import { readNumber } from './forms';
import { readRanges, SeriesError } from './ranges';
import type { KeptTable } from './kept-table';

/** Which record each copy of a docket is. */

export const MOST_SERIES = 100_000;

/** A copies cell as people fill it in: nothing and 0 for none. */
function copiesIn(cell: string, record: number, column: string): number {
  if (cell.trim() === '') return 0;
  const copies = readNumber(cell);
  if (copies === undefined || !Number.isInteger(copies) || copies < 0 || copies > 1000)
    throw new SeriesError(`Record ${record} has “${cell.slice(0, 40)}” in ${column}: copies are a whole number from 0 to 1,000.`);
  return copies;
}

/**
 * The records that are printed, in the table's order, one number for each copy.
 *
 * @throws SeriesError for a range or a number of copies that cannot be read, or for more than can be printed at once
 */
export function seriesOf(
  table: KeptTable,
  { only, each, copiesFrom }: Pick<RecordChoices, 'only' | 'each' | 'copiesFrom'>
): Uint32Array {
  const ranges = readRanges(only, table.next);
  const wanted = (record: number) => ranges.length === 0 || ranges.some(({ from, to }) => record >= from && record <= to);
  const column = copiesFrom === null ? undefined : matchNames([copiesFrom], table.columns).columns[copiesFrom];
  if (copiesFrom !== null && column === undefined)
    throw new SeriesError(`The table has no column “${copiesFrom}” for the number of copies.`);
  const place = column === undefined ? -1 : table.columns.indexOf(column);
  const series: number[] = [];
  table.rows.forEach((row, i) => {
    const record = table.numbers[i]!;
    if (!wanted(record)) return;
    const copies = column === undefined ? each : copiesIn(row[place]!, record, column);
    if (series.length + copies > MOST_SERIES)
      throw new SeriesError(
        `These are more than ${MOST_SERIES.toLocaleString('en-GB')} copies, the most that can be printed at once. Choose some of the records.`
      );
    for (let n = 0; n < copies; n++) series.push(record);
  });
  return Uint32Array.from(series);
}

/** Columns that say how many copies by their name, in the languages of the trade’s customers. */
const COPIES = new Set(
  ['copies', 'copy', 'quantity', 'qty', 'number of copies', 'pieces', 'pcs', 'anzahl', 'menge', 'stück'].map(plainName)
);
export const copiesColumn = (columns: readonly string[]): string | null =>
  columns.find((column) => COPIES.has(plainName(column))) ?? null;
