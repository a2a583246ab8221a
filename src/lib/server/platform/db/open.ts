import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { fold } from '$lib/listing';
import { isDiskFull } from '../files';
import { keepStatements } from './statements';

export type Db = Database.Database;

/** Whether anything in the shop needs a file. */
export const isFileUsed = (db: Db, hash: string): boolean =>
  db.prepare<[string], 1>('SELECT 1 FROM file_use WHERE hash = ? LIMIT 1').pluck().get(hash) !== undefined;

/** Whether a write failed for what passes by itself: no room, a fault of the disk, another writer. */
export const mayPass = (error: unknown): boolean =>
  isDiskFull(error) || (error instanceof Error && 'code' in error && /^SQLITE_(FULL|IOERR|BUSY)/.test(String(error.code)));

const migrations = import.meta.glob<string>('./migrations/*.sql', { query: '?raw', import: 'default', eager: true });

/** Opens the shop's database and brings it up to date, each migration in a transaction of its own. */
export function openDatabase(folder: string): Db {
  mkdirSync(folder, { recursive: true });
  const db = new Database(join(folder, 'shop.sqlite'));
  db.pragma('journal_mode = WAL');
  // What was acknowledged is on the disk: a power cut takes back nothing that a person was told.
  db.pragma('synchronous = FULL');
  db.pragma('busy_timeout = 5000');
  db.pragma('foreign_keys = OFF');
  db.function('fold', { deterministic: true }, (text: unknown) => fold(String(text)));
  const files = Object.keys(migrations).sort();
  const done = db.pragma('user_version', { simple: true }) as number;
  if (done > files.length)
    throw new Error(
      'This data folder was written by a newer Zing Mast. Start that one, or choose another folder with ZING_DATA.'
    );
  files.slice(done).forEach((file, i) => {
    db.transaction(() => {
      db.exec(migrations[file] as string);
      db.pragma(`user_version = ${done + i + 1}`);
    })();
  });
  // Tables that others point to are made anew by migrations: what points to them is checked afterwards.
  const broken = done < files.length ? (db.pragma('foreign_key_check') as unknown[]) : [];
  if (broken.length > 0) throw new Error(`The data folder has ${broken.length} rows that point to nothing; it was not opened.`);
  db.pragma('foreign_keys = ON');
  keepStatements(db);
  return db;
}
