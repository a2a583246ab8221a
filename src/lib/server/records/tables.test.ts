import { existsSync, rmSync } from 'node:fs';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Piscina } from 'piscina';
import { NO_RECORDS, type RecordChoices, type TableRef } from '$core/records/choices';
import { nameField } from '../../../../tests/made/fields';
import { temporaryFolder } from '../../../../tests/harness';
import { isFileUsed, openDatabase, type Db } from '../platform/db/open';
import { FileStore } from '../platform/files';
import type { ProcessPool } from '../platform/tasks/process-pool';
import { readTableFile } from './table-files';
import { Tables } from './tables';
import { readTable, type ReadTableRequest } from './workers/read-table';
import * as worker from './workers/tables';

let folder: ReturnType<typeof temporaryFolder>;
let db: Db;
let files: FileStore;
let tables: Tables;
/** What the process does, here. */
const intakePool = {
  run: (_name: string, request: ReadTableRequest) => Promise.resolve().then(() => readTable(request))
} as unknown as ProcessPool;
/** What the thread does, here. */
const tablePool = {
  run: (request: never, { name }: { name: keyof typeof worker }) => Promise.resolve(worker[name](request))
} as unknown as Piscina;
const open = () => new Tables({ db, files, intakePool, tablePool });
const cells = async (ref: TableRef) =>
  (await tables.rows(ref, { from: 0, most: 100 })).rows.map(({ record, cells: all }) => [record, ...all]);
const read = async (text: string) => (await tables.read(new TextEncoder().encode(text), 'crew.csv', {})).table;

beforeEach(() => {
  folder = temporaryFolder();
  db = openDatabase(folder.path);
  files = new FileStore(folder.path, (hash) => isFileUsed(db, hash));
  tables = open();
});
afterEach(() => {
  db.close();
  folder.remove();
});
const choices = (over: Partial<RecordChoices>): RecordChoices => ({ ...NO_RECORDS, fields: [nameField], ...over });

describe('tables', () => {
  it('are files, each version one, so that the one before is still there', async () => {
    const first = await read('name,copies\nAda,2\nLi,0\nZoë,1\n');
    expect(first).toMatchObject({ name: 'crew.csv', columns: ['name', 'copies'], count: 3 });
    const second = await tables.edit(first, { is: 'take out rows', records: [1] });
    expect(second.count).toBe(2);
    expect(await cells(first)).toEqual([
      [1, 'Ada', '2'],
      [2, 'Li', '0'],
      [3, 'Zoë', '1']
    ]);
    expect(await cells(second)).toEqual([
      [2, 'Li', '0'],
      [3, 'Zoë', '1']
    ]);
    expect(readTableFile({ hash: second.hash, path: tables.path(second) })).toMatchObject({ numbers: [2, 3], next: 4 });
    // The same again is the same file.
    expect((await tables.edit(first, { is: 'take out rows', records: [1] })).hash).toBe(second.hash);
    files.drop(first.hash);
    expect(existsSync(files.path(first.hash))).toBe(true);
  });

  it('say which record each copy is, and how many there are', async () => {
    const table = await read('name,copies\nAda,2\nLi,0\nZoë,1\n');
    expect([...tables.series(choices({ table, each: 2, only: '2-' }))]).toEqual([2, 2, 3, 3]);
    expect([...tables.series(choices({ table, copiesFrom: 'copies' }))]).toEqual([1, 1, 3]);
    expect([...tables.series(NO_RECORDS)]).toEqual([]);
    expect(tables.copies({ copies: 40, records: NO_RECORDS })).toBe(40);
    expect(tables.copies({ copies: 40, records: choices({ table }) })).toBe(3);
    expect(() => tables.copies({ copies: 1, records: choices({ table, only: '9' }) })).toThrow('No record is chosen');
    expect(() => tables.series(choices({ table, only: 'x' }))).toThrow('“x” is no range of records');
  });

  it('are known to be so many copies before that is asked, without a look at them then', async () => {
    const table = await read('name,copies\nAda,2\nLi,0\nZoë,1\n');
    const [all, wrong] = [choices({ table, copiesFrom: 'copies' }), choices({ table, only: 'x' })];
    await tables.ready(all);
    await tables.ready(wrong);
    await tables.ready(NO_RECORDS);
    rmSync(tables.path(table));
    expect([...tables.series(all)]).toEqual([1, 1, 3]);
    expect(() => tables.series(wrong)).toThrow('cannot be read any more');
  });

  it('are held against newer ones by a column, and by whole rows', async () => {
    const before = await read('name,boat\nAda,Tern\nLi,Gannet\n');
    const newer = await read('name,boat\nLi,Puffin\nZoë,Tern\n');
    const { table, news, key } = await tables.replace(before, newer, 'name');
    expect({ news, key }).toEqual({ news: { added: [3], gone: [1], changed: [2] }, key: 'name' });
    expect(await cells(table)).toEqual([
      [2, 'Li', 'Puffin'],
      [3, 'Zoë', 'Tern']
    ]);
    expect(await tables.matching(table, 'TERN')).toEqual([3]);
  });

  it('refuse what cannot be done, and keep nothing of it', async () => {
    const table = await read('name\nAda\n');
    await expect(tables.edit(table, { is: 'cell', record: 9, column: 'name', value: '' })).rejects.toThrow('no record 9');
    await expect(tables.edit(table, { is: 'add column', name: 'x', content: '{' })).rejects.toThrow('never closed');
    await expect(read('')).rejects.toThrow('The file is empty.');
    expect(db.prepare('SELECT count(*) FROM record_table').pluck().get()).toBe(1);
    const gone = { ...table, hash: 'f'.repeat(64) };
    await expect(cells(gone)).rejects.toMatchObject({ status: 409, message: expect.stringContaining('cannot be read any more') });
    await tables.ready(choices({ table: gone }));
    expect(() => tables.series(choices({ table: gone }))).toThrow('cannot be read any more');
  });

  it('that nobody names any more are forgotten after a day', async () => {
    const [gone, kept] = [await read('name\nAda\n'), await read('name\nLi\n')];
    db.exec("INSERT INTO artwork (id, name, file_hash, bytes, state, added_at) VALUES (1, 'a', 'f', 1, 'ready', 0)");
    db.prepare("INSERT INTO docket (artwork_id, page, name, choices, added_at) VALUES (1, 0, 'd', ?, 0)").run(
      JSON.stringify({ copies: 1, widthMm: 1, heightMm: 1, cut: false, records: { table: kept } })
    );
    open();
    expect(isFileUsed(db, gone.hash)).toBe(true);
    db.exec('UPDATE record_table SET added_at = 0');
    open();
    expect([isFileUsed(db, gone.hash), isFileUsed(db, kept.hash)]).toEqual([false, true]);
  });
});
