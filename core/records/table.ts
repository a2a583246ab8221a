import { toldApart } from '../units/names';

/** A customer's table: what differs from copy to copy. All cells are text, as they were seen where the table was made. */

export interface Table {
  /** Names, each there once. */
  columns: string[];
  /** As many cells a row as there are columns. */
  rows: string[][];
}

export const MOST_ROWS = 100_000;
export const MOST_COLUMNS = 200;
/** Of a cell. */
export const MOST_CHARACTERS = 10_000;
/** Of a table: cells and all. */
export const MOST_CELLS = 4_000_000;

/** A table that cannot be taken, with the row or cell at fault. */
export class TableError extends Error {
  override name = 'TableError';
}

const counted = (n: number) => n.toLocaleString('en-GB');

/**
 * A table of rows of any length, the first of which may name the columns. Empty rows at the end are none; short rows are filled
 * up; names that are missing or there twice are made their own.
 *
 * @returns the table, and in sentences what was changed
 * @throws TableError where it is larger than can be taken
 */
export function tableOf(lines: readonly (readonly string[])[], heading: boolean): { table: Table; notes: string[] } {
  const notes: string[] = [];
  let end = lines.length;
  while (end > 0 && lines[end - 1]!.every((cell) => cell.trim() === '')) end--;
  const all = lines.slice(heading ? 1 : 0, end);
  if (all.length > MOST_ROWS)
    throw new TableError(
      `The table has ${counted(all.length)} rows; at most ${counted(MOST_ROWS)} can be taken. Divide it into several files.`
    );
  const width = lines.slice(0, end).reduce((most, line) => Math.max(most, line.length), 0);
  if (width > MOST_COLUMNS)
    throw new TableError(`The table has ${counted(width)} columns; at most ${MOST_COLUMNS} can be taken.`);
  if (all.length * width > MOST_CELLS)
    throw new TableError(
      `The table has ${counted(all.length)} rows of ${width} columns; at most ${counted(MOST_CELLS)} cells can be taken.`
    );
  const columns = namesOf(heading ? (lines[0] ?? []) : [], width, notes);
  let short = 0;
  const rows = all.map((line, r) => {
    if (line.length < width) short++;
    return columns.map((name, c) => {
      const cell = line[c] ?? '';
      if (cell.length > MOST_CHARACTERS)
        throw new TableError(
          `Row ${counted(r + 1)}, ${name}, has ${counted(cell.length)} characters; a cell can have ${counted(MOST_CHARACTERS)}.`
        );
      return cell;
    });
  });
  if (short > 0 && columns.length > 1)
    notes.push(
      `${counted(short)} ${short === 1 ? 'row has' : 'rows have'} fewer cells than there are columns: the rest is empty.`
    );
  return { table: { columns, rows }, notes };
}

/** A name for each column, none twice. */
function namesOf(given: readonly string[], width: number, notes: string[]): string[] {
  const first = Array.from({ length: width }, (_, i) => (given[i] ?? '').replace(/\s+/g, ' ').trim().slice(0, 100));
  const names = toldApart(first.map((name, i) => (name === '' ? `Column ${i + 1}` : name)));
  const doubled = new Set(first.filter((name, i) => name !== '' && names[i] !== name));
  for (const name of doubled) notes.push(`More than one column is called “${name}”: they have numbers now.`);
  return names;
}
