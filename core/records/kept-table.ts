import { fill, parseContent } from './content';
import { matchNames } from './names';
import { MOST_CELLS, MOST_CHARACTERS, MOST_COLUMNS, MOST_ROWS, TableError, type Table } from './table';

/**
 * A docket's table as it is kept: each row is a record with a number of its own, which it keeps when rows are sorted, taken
 * out or come with a newer table. A record is spoken of by it: on captions, on cuts, when it is printed again.
 */
export interface KeptTable extends Table {
  /** Of each row, none twice, from 1. */
  numbers: number[];
  /** The next new row's. */
  next: number;
}

export function keptTable({ columns, rows }: Table): KeptTable {
  return { columns, rows, numbers: rows.map((_, i) => i + 1), next: rows.length + 1 };
}

/** One change of a table. Records are told by their numbers. */
export type TableEdit =
  | { is: 'cell'; record: number; column: string; value: string }
  | { is: 'add rows'; rows: string[][] }
  | { is: 'take out rows'; records: number[] }
  /** A column made of others, or of a counter, as a field's text is written; empty cells for no text. */
  | { is: 'add column'; name: string; content: string }
  | { is: 'rename column'; column: string; name: string }
  | { is: 'take out column'; column: string }
  | { is: 'sort'; column: string; down: boolean };

const counted = (n: number) => n.toLocaleString('en-GB');

/** Figures within words are sorted by their size. */
const inOrder = new Intl.Collator('en', { numeric: true, sensitivity: 'base' }).compare;

/**
 * A table with a change made; the one given stays as it was.
 *
 * @throws TableError for what is not there or no longer fits; ContentError for a text that cannot be understood
 */
export function editTable(table: KeptTable, edit: TableEdit): KeptTable {
  switch (edit.is) {
    case 'cell': {
      const row = rowOf(table, edit.record);
      const column = columnOf(table, edit.column);
      const value = fitting(edit.value, `Record ${edit.record}, ${edit.column}`);
      const rows = [...table.rows];
      rows[row] = rows[row]!.map((cell, i) => (i === column ? value : cell));
      return { ...table, rows };
    }
    case 'add rows': {
      const rows = edit.rows.map((cells, r) =>
        table.columns.map((name, i) => fitting(cells[i] ?? '', `New row ${r + 1}, ${name}`))
      );
      const numbers = rows.map((_, i) => table.next + i);
      return bounded({
        ...table,
        rows: [...table.rows, ...rows],
        numbers: [...table.numbers, ...numbers],
        next: table.next + rows.length
      });
    }
    case 'take out rows': {
      const gone = new Set(edit.records);
      for (const record of gone) rowOf(table, record);
      const kept = table.numbers.flatMap((number, i) => (gone.has(number) ? [] : [i]));
      return picked(table, kept);
    }
    case 'add column': {
      const name = newName(table, edit.name);
      const content = parseContent(edit.content);
      const rows = table.rows.map((row, r) => {
        const value = (asked: string) => {
          const column = matchNames([asked], table.columns).columns[asked];
          return column === undefined ? undefined : row[table.columns.indexOf(column)];
        };
        return [...row, fitting(fill(content, value, r).text, `Record ${table.numbers[r]}, ${name}`)];
      });
      return bounded({ ...table, columns: [...table.columns, name], rows });
    }
    case 'rename column': {
      const column = columnOf(table, edit.column);
      const name = newName({ columns: table.columns.filter((_, i) => i !== column) }, edit.name);
      return { ...table, columns: table.columns.map((one, i) => (i === column ? name : one)) };
    }
    case 'take out column': {
      const column = columnOf(table, edit.column);
      if (table.columns.length === 1) throw new TableError('A table has one column at least.');
      const without = <T>(list: readonly T[]) => list.filter((_, i) => i !== column);
      return { ...table, columns: without(table.columns), rows: table.rows.map(without) };
    }
    case 'sort': {
      const column = columnOf(table, edit.column);
      const order = table.rows
        .map((row, i) => [row[column]!, i] as const)
        // Those that are alike stay as they were, whichever way.
        .sort(([p, i], [q, j]) => (edit.down ? inOrder(q, p) : inOrder(p, q)) || i - j)
        .map(([, i]) => i);
      return picked(table, order);
    }
  }
}

const picked = (table: KeptTable, order: readonly number[]): KeptTable => ({
  ...table,
  rows: order.map((i) => table.rows[i]!),
  numbers: order.map((i) => table.numbers[i]!)
});

function rowOf(table: KeptTable, record: number): number {
  const row = table.numbers.indexOf(record);
  if (row < 0) throw new TableError(`The table has no record ${counted(record)}.`);
  return row;
}

function columnOf(table: Pick<Table, 'columns'>, name: string): number {
  const column = table.columns.indexOf(name);
  if (column < 0) throw new TableError(`The table has no column “${name}”.`);
  return column;
}

function newName({ columns }: Pick<Table, 'columns'>, given: string): string {
  const name = given.replace(/\s+/g, ' ').trim();
  if (name === '' || name.length > 100) throw new TableError('A column’s name has 1 to 100 characters.');
  if (columns.includes(name)) throw new TableError(`There is a column “${name}” already.`);
  return name;
}

function fitting(value: string, where: string): string {
  if (value.length > MOST_CHARACTERS)
    throw new TableError(
      `${where}, would have ${counted(value.length)} characters; a cell can have ${counted(MOST_CHARACTERS)}.`
    );
  return value;
}

function bounded(table: KeptTable): KeptTable {
  const { columns, rows } = table;
  if (rows.length > MOST_ROWS)
    throw new TableError(`The table would have ${counted(rows.length)} rows; at most ${counted(MOST_ROWS)}.`);
  if (columns.length > MOST_COLUMNS)
    throw new TableError(`The table would have ${columns.length} columns; at most ${MOST_COLUMNS}.`);
  if (rows.length * columns.length > MOST_CELLS)
    throw new TableError(`The table would have ${counted(rows.length * columns.length)} cells; at most ${counted(MOST_CELLS)}.`);
  return table;
}

/** What a newer table changes, by the numbers of records. */
export interface TableNews {
  added: number[];
  gone: number[];
  changed: number[];
}

/**
 * A newer table in the place of another: records that are in both keep their numbers.
 *
 * @param key the column that tells records apart; nothing for the first whose values are each there once in both, or else
 *   rows that are the same in all that both tables have
 */
export function replaceTable(
  before: KeptTable,
  newer: Table,
  key?: string
): { table: KeptTable; news: TableNews; key: string | null } {
  const pairs = Object.entries(matchNames(before.columns, newer.columns).columns).map(
    ([name, column]) => [before.columns.indexOf(name), newer.columns.indexOf(column)] as const
  );
  const isUnique = (rows: Table['rows'], column: number) => new Set(rows.map((row) => row[column])).size === rows.length;
  const wanted = key === undefined ? undefined : before.columns.indexOf(key);
  const by =
    wanted === undefined
      ? pairs.find(([p, q]) => isUnique(before.rows, p) && isUnique(newer.rows, q))
      : pairs.find(([p]) => p === wanted);
  const tell = (row: readonly string[], side: 0 | 1) => JSON.stringify(by ? row[by[side]] : pairs.map((pair) => row[pair[side]]));
  // Those that are told by the same, in their order.
  const known = new Map<string, number[]>();
  before.rows.forEach((row, i) => {
    const told = tell(row, 0);
    known.set(told, [...(known.get(told) ?? []), i]);
  });
  const news: TableNews = { added: [], gone: [], changed: [] };
  let { next } = before;
  const numbers = newer.rows.map((row) => {
    const was = known.get(tell(row, 1))?.shift();
    if (was === undefined) {
      news.added.push(next);
      return next++;
    }
    const number = before.numbers[was]!;
    if (pairs.some(([p, q]) => before.rows[was]![p] !== row[q])) news.changed.push(number);
    return number;
  });
  const kept = new Set(numbers);
  news.gone = before.numbers.filter((number) => !kept.has(number));
  return { table: { ...newer, numbers, next }, news, key: by ? before.columns[by[0]]! : null };
}
