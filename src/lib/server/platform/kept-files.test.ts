import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { temporaryFolder } from '../../../../tests/harness';
import { isFileUsed, openDatabase, type Db } from './db/open';
import { FileStore } from './files';
import { findKept, keptFile } from './kept-files';

let folder: ReturnType<typeof temporaryFolder>;
let db: Db;
let files: FileStore;

beforeEach(() => {
  folder = temporaryFolder();
  db = openDatabase(folder.path);
  files = new FileStore(folder.path, (hash) => isFileUsed(db, hash));
});
afterEach(() => {
  db.close();
  folder.remove();
});

const made = (text: string) => () => Promise.resolve(new TextEncoder().encode(text));
const has = (key: string) => findKept(db, files, key) !== undefined;

describe('files that are kept', () => {
  it('are made once, and anew where they are gone', async () => {
    const path = await keptFile(db, files, 'piece/a', made('one'));
    expect(await keptFile(db, files, 'piece/a', () => Promise.reject(new Error('made twice')))).toBe(path);
    db.exec("UPDATE kept_file SET hash = 'lost'");
    expect(has('piece/a')).toBe(false);
    expect(await keptFile(db, files, 'piece/a', made('one'))).toBe(path);
  });

  it('go when there are too many, whatever they are, the oldest first; only profiles stay', async () => {
    for (const key of ['source/rgb/4', 'piece/old', 'layers/old', 'measure/ink/old', 'records/pages/old'])
      await keptFile(db, files, key, made(key));
    db.exec('UPDATE kept_file SET kept_at = 1');
    const put = db.prepare("INSERT INTO kept_file (key, hash, kept_at) VALUES (?, 'gone', ?)");
    db.transaction(() => {
      for (let i = 0; i < 2996; i++) put.run(`${i % 2 ? 'layers' : 'piece'}/${i}`, 2 + i);
    })();
    await keptFile(db, files, 'layers/new', made('new'));
    expect(['piece/old', 'layers/old', 'measure/ink/old', 'records/pages/old'].filter(has)).toEqual([]);
    expect(['source/rgb/4', 'layers/new'].filter(has)).toEqual(['source/rgb/4', 'layers/new']);
    // A tenth goes at once, so that it is not done for each.
    expect(db.prepare("SELECT count(*) FROM kept_file WHERE key LIKE 'layers/%'").pluck().get()).toBeLessThan(1400);
    expect(db.prepare('SELECT count(*) FROM kept_file').pluck().get()).toBe(2701);
  });
});
