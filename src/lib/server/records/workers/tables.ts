import { createHash } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import { LRUCache } from 'lru-cache';
import type { RecordChoices } from '$core/records/choices';
import { editTable, replaceTable, type KeptTable, type TableEdit, type TableNews } from '$core/records/kept-table';
import { seriesOf } from '$core/records/series';
import { placesWith } from '$core/records/table-search';
import type { Told } from '../../platform/told';
import { readTableFile, told, type TableFile } from '../table-files';

/** Customers' tables are opened, searched and changed here: a large one takes half a second, in which nobody else is to wait. */

/** A version of a table that was written. */
export interface TableMade {
  columns: string[];
  count: number;
}

/** Rows of a table that are looked at, each with the number of its record. */
export interface TablePage {
  /** Of all that are asked for. */
  total: number;
  /** Each with its place in the table, from 0: what a counter counts. */
  rows: { record: number; place: number; cells: string[] }[];
}

export interface Replaced extends TableMade {
  /** What it changed of the table before. */
  news: TableNews;
  /** The column that told records apart; nothing where whole rows did. */
  key: string | null;
}

export interface RowsRequest {
  table: TableFile;
  /** Of those that are asked for, the first and how many. */
  from: number;
  most: number;
  words?: string;
  records?: readonly number[] | undefined;
}

export type SeriesAsked = Pick<RecordChoices, 'only' | 'each' | 'copiesFrom'>;

/** Tables that are at hand, by their cells. */
const CELLS_AT_HAND = 4_000_000;
const opened = new LRUCache<string, KeptTable>({
  maxSize: CELLS_AT_HAND,
  sizeCalculation: ({ rows, columns }) => rows.length * columns.length + 1
});

function tableAt(file: TableFile): KeptTable {
  const table = opened.get(file.hash) ?? readTableFile(file);
  opened.set(file.hash, table);
  return table;
}

/** Writes a version; it is at hand then, by what its file will be called. */
function write(table: KeptTable, to: string): TableMade {
  const packed = gzipSync(JSON.stringify(table), { level: 1 });
  writeFileSync(to, packed);
  opened.set(createHash('sha256').update(packed).digest('hex'), table);
  return { columns: table.columns, count: table.rows.length };
}

/** Rows from one on: all, those with some words in them, or some records. */
export const rows = ({ table: file, from, most, words = '', records }: RowsRequest): Told<TablePage> =>
  told(() => {
    const table = tableAt(file);
    const places = words.trim() === '' && !records ? undefined : placesWith(table, words, records);
    const total = places?.length ?? table.rows.length;
    const shown = Array.from({ length: Math.max(0, Math.min(most, total - from)) }, (_, i) => places?.[from + i] ?? from + i);
    return { total, rows: shown.map((i) => ({ record: table.numbers[i]!, place: i, cells: table.rows[i]! })) };
  });

/** The numbers of all records with some words in them. */
export const matching = ({ table: file, words }: { table: TableFile; words: string }): Told<number[]> =>
  told(() => {
    const table = tableAt(file);
    return placesWith(table, words).map((i) => table.numbers[i]!);
  });

/** The record of each copy. */
export const series = ({ table, asked }: { table: TableFile; asked: SeriesAsked }): Told<Uint32Array> =>
  told(() => seriesOf(tableAt(table), asked));

/** @param to where the version with the change goes */
export const edit = ({ table, change, to }: { table: TableFile; change: TableEdit; to: string }): Told<TableMade> =>
  told(() => write(editTable(tableAt(table), change), to));

/** A newer table with the numbers of the records that were in the one before. @param to where it goes */
export const replace = (of: { before: TableFile; newer: TableFile; key: string | undefined; to: string }): Told<Replaced> =>
  told(() => {
    const { table, ...rest } = replaceTable(tableAt(of.before), tableAt(of.newer), of.key);
    return { ...write(table, of.to), ...rest };
  });
