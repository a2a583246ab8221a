import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { LRUCache } from 'lru-cache';
import type { Piscina } from 'piscina';
import { hasRecords, type RecordChoices, type TableRef } from '$core/records/choices';
import type { TableEdit } from '$core/records/kept-table';
import type { ReadTable } from '$core/records/read-table';
import type { TableChoices } from '$core/records/table-choices';
import { seriesOf } from '$core/records/series';
import type { Db } from '../platform/db/open';
import type { FileStore } from '../platform/files';
import { Problem } from '../platform/problem';
import { made, type Told } from '../platform/told';
import { WorkEnded, type ProcessPool } from '../platform/tasks/process-pool';
import { readTableFile, told, type TableFile } from './table-files';
import { forgetUnnamed } from './unnamed';
import type * as worker from './workers/tables';
import type { Replaced, RowsRequest, SeriesAsked, TableMade, TablePage } from './workers/tables';

/** The largest file that a table is read from. */
export const MOST_TABLE_BYTES = 100e6;
const LIMITS = { seconds: 60, megabytes: 1500 };
/** Of dockets whose copies were asked for last. */
const RECORDS_AT_HAND = 4_000_000;

/** What was read, and how. */
export type TableRead = Omit<ReadTable, 'table'> & { table: TableRef };

interface Needs {
  db: Db;
  files: FileStore;
  intakePool: ProcessPool;
  tablePool: Piscina;
}

/** Customers' tables: each version is a file of its own, so that going back a step finds the one before. */
export class Tables {
  readonly #needs: Needs;
  readonly #series = new LRUCache<string, Uint32Array>({
    maxSize: RECORDS_AT_HAND,
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

  path({ hash }: Pick<TableRef, 'hash'>): string {
    return this.#needs.files.path(hash);
  }

  /** Rows of a table, from one on: all, those with some words in them, or some records. */
  rows(ref: TableRef, of: Omit<RowsRequest, 'table'>): Promise<TablePage> {
    return this.#work('rows', { table: this.#file(ref), ...of } satisfies RowsRequest);
  }

  /** The numbers of all records with some words in them. */
  matching(ref: TableRef, words: string): Promise<number[]> {
    return this.#work('matching', { table: this.#file(ref), words });
  }

  /** A version of a table with a change made. @throws Problem for what cannot be done */
  async edit(ref: TableRef, change: TableEdit): Promise<TableRef> {
    const to = this.#needs.files.scratch();
    return this.#version(ref.name, await this.#work<TableMade>('edit', { table: this.#file(ref), change, to }), to);
  }

  /** A newer table with the numbers of the records that were in the one before. */
  async replace(before: TableRef, newer: TableRef, key?: string): Promise<{ table: TableRef } & Omit<Replaced, keyof TableMade>> {
    const work = { before: this.#file(before), newer: this.#file(newer), key };
    const to = this.#needs.files.scratch();
    const { news, key: by, ...version } = await this.#work<Replaced>('replace', { ...work, to });
    return { table: await this.#version(newer.name, version, to), news, key: by };
  }

  /** Sees to it that the copies of records are known before they are asked for; what is wrong with them, who asks is told. */
  async ready(records: RecordChoices): Promise<void> {
    const { table, only, each, copiesFrom } = records;
    const key = seriesKey(records);
    if (!table || this.#series.has(key)) return;
    const asked = { only, each, copiesFrom } satisfies SeriesAsked;
    const request = { table: this.#file(table), asked };
    const found = (await this.#needs.tablePool.run(request, { name: 'series' })) as Told<Uint32Array>;
    if (found.ok) this.#series.set(key, found.made);
  }

  /**
   * The record of each copy, in the order in which they are printed. It is looked up here and now where nobody saw to it
   * before: after a start, for each table once.
   *
   * @throws Problem for ranges and copies that cannot be read
   */
  series(records: RecordChoices): Uint32Array {
    if (!records.table) return new Uint32Array();
    const key = seriesKey(records);
    const known = this.#series.get(key);
    if (known) return known;
    const file = this.#file(records.table);
    const found = made(told(() => seriesOf(readTableFile(file), records)));
    this.#series.set(key, found);
    return found;
  }

  /** A docket's copies: as many as its records say, or as it says itself. @throws Problem */
  copies(choices: { copies: number; records: RecordChoices }): number {
    if (!hasRecords(choices.records)) return choices.copies;
    const { length } = this.series(choices.records);
    if (length === 0) throw new Problem(422, 'No record is chosen to be printed. Choose one at least.');
    return length;
  }

  #file({ hash }: Pick<TableRef, 'hash'>): TableFile {
    return { hash, path: this.path({ hash }) };
  }

  async #version(name: string, { columns, count }: TableMade, from: string): Promise<TableRef> {
    return this.#named({ hash: await this.#needs.files.adopt(from), name, columns, count });
  }

  /** In a thread. @throws Problem for what cannot be done */
  async #work<T>(name: keyof typeof worker, request: object): Promise<T> {
    return made((await this.#needs.tablePool.run(request, { name })) as Told<T>);
  }

  #named(ref: TableRef): TableRef {
    this.#needs.db
      .prepare('INSERT OR REPLACE INTO record_table (hash, name, columns, count, added_at) VALUES (?, ?, ?, ?, ?)')
      .run(ref.hash, ref.name, JSON.stringify(ref.columns), ref.count, Date.now());
    return ref;
  }
}

const seriesKey = ({ table, only, each, copiesFrom }: RecordChoices): string =>
  JSON.stringify([table?.hash, only, each, copiesFrom]);
