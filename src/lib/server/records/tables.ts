import { readFileSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { gunzipSync, gzip } from 'node:zlib';
import { LRUCache } from 'lru-cache';
import { hasRecords, type RecordChoices, type TableRef } from '$core/records/choices';
import { ContentError } from '$core/records/content';
import { editTable, replaceTable, type KeptTable, type TableEdit, type TableNews } from '$core/records/kept-table';
import type { ReadTable } from '$core/records/read-table';
import type { TableChoices } from '$core/records/table-choices';
import { SeriesError } from '$core/records/ranges';
import { seriesOf } from '$core/records/series';
import { TableError } from '$core/records/table';
import type { Db } from '../platform/db/open';
import type { FileStore } from '../platform/files';
import { Problem } from '../platform/problem';
import { WorkEnded, type ProcessPool } from '../platform/tasks/process-pool';
import { forgetUnnamed } from './unnamed';

/** The largest file that a table is read from. */
export const MOST_TABLE_BYTES = 100e6;
const LIMITS = { seconds: 60, megabytes: 1500 };
/** Tables that are at hand, by their cells. */
const CELLS_AT_HAND = 4_000_000;

/** What was read, and how. */
export type TableRead = Omit<ReadTable, 'table'> & { table: TableRef };

interface Needs {
  db: Db;
  files: FileStore;
  intakePool: ProcessPool;
}

const pack = promisify(gzip);

/** Customers' tables: each version is a file of its own, so that going back a step finds the one before. */
export class Tables {
  readonly #needs: Needs;
  readonly #opened = new LRUCache<string, KeptTable>({
    maxSize: CELLS_AT_HAND,
    sizeCalculation: ({ rows, columns }) => rows.length * columns.length + 1
  });
  readonly #series = new LRUCache<string, Uint32Array>({
    maxSize: CELLS_AT_HAND,
    sizeCalculation: (series) => series.length + 1
  });

  constructor(needs: Needs) {
    this.#needs = needs;
    forgetUnnamed(needs.db, 'record_table');
  }

  /** Reads a table from a file. It is done in a process: files come from anywhere. @throws Problem with the row or cell at fault */
  async read(bytes: Uint8Array, name: string, how: TableChoices): Promise<TableRead> {
    const { files, intakePool } = this.#needs;
    return files.inFolder(async (folder) => {
      const [from, to] = [join(folder, 'table'), files.scratch()];
      await writeFile(from, bytes);
      try {
        const read = await intakePool.run<Omit<TableRead, 'table'> & { columns: string[]; count: number }>(
          'readTable',
          { from, to, how },
          LIMITS
        );
        const { columns, count, ...rest } = read;
        return { ...rest, table: this.#named({ hash: await files.adopt(to), name, columns, count }) };
      } catch (error) {
        if (error instanceof WorkEnded)
          throw new Problem(422, 'This table breaks the program that reads it. Save it as text with commas and take that.');
        throw error;
      }
    });
  }

  /** A table by its file. @throws Problem where it is gone */
  get({ hash }: Pick<TableRef, 'hash'>): KeptTable {
    const known = this.#opened.get(hash);
    if (known) return known;
    let table: KeptTable;
    try {
      table = JSON.parse(gunzipSync(readFileSync(this.#needs.files.path(hash))).toString()) as KeptTable;
    } catch {
      throw new Problem(409, 'The table of this docket cannot be read any more. Take its file again.');
    }
    this.#opened.set(hash, table);
    return table;
  }

  path({ hash }: Pick<TableRef, 'hash'>): string {
    return this.#needs.files.path(hash);
  }

  /** A version of a table with a change made. @throws Problem for what cannot be done */
  async edit(ref: TableRef, edit: TableEdit): Promise<TableRef> {
    return this.#keep(
      ref.name,
      told(() => editTable(this.get(ref), edit))
    );
  }

  /** A newer table with the numbers of the records that were in the one before. */
  async replace(
    before: TableRef,
    newer: TableRef,
    key?: string
  ): Promise<{ table: TableRef; news: TableNews; key: string | null }> {
    const { table, ...rest } = replaceTable(this.get(before), this.get(newer), key);
    return { table: await this.#keep(newer.name, table), ...rest };
  }

  /** The record of each copy, in the order in which they are printed. @throws Problem for ranges and copies that cannot be read */
  series({ table, only, each, copiesFrom }: RecordChoices): Uint32Array {
    if (!table) return new Uint32Array();
    const key = JSON.stringify([table.hash, only, each, copiesFrom]);
    const known = this.#series.get(key);
    if (known) return known;
    const series = told(() => seriesOf(this.get(table), { only, each, copiesFrom }));
    this.#series.set(key, series);
    return series;
  }

  /** A docket's copies: as many as its records say, or as it says itself. @throws Problem */
  copies(choices: { copies: number; records: RecordChoices }): number {
    if (!hasRecords(choices.records)) return choices.copies;
    const { length } = this.series(choices.records);
    if (length === 0) throw new Problem(422, 'No record is chosen to be printed. Choose one at least.');
    return length;
  }

  async #keep(name: string, table: KeptTable): Promise<TableRef> {
    const hash = await this.#needs.files.put(await pack(JSON.stringify(table), { level: 1 }));
    this.#opened.set(hash, table);
    return this.#named({ hash, name, columns: table.columns, count: table.rows.length });
  }

  #named(ref: TableRef): TableRef {
    this.#needs.db
      .prepare('INSERT OR REPLACE INTO record_table (hash, name, columns, count, added_at) VALUES (?, ?, ?, ?, ?)')
      .run(ref.hash, ref.name, JSON.stringify(ref.columns), ref.count, Date.now());
    return ref;
  }
}

/** What core says of a table is said to a person. */
function told<T>(work: () => T): T {
  try {
    return work();
  } catch (error) {
    if (error instanceof TableError || error instanceof SeriesError || error instanceof ContentError)
      throw new Problem(422, error.message);
    throw error;
  }
}
