import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';

export type Db = Database.Database;

const migrations = import.meta.glob<string>('./migrations/*.sql', { query: '?raw', import: 'default', eager: true });

/** Opens the shop's database and brings it up to date, each migration in a transaction of its own. */
export function openDatabase(folder: string): Db {
  mkdirSync(folder, { recursive: true });
  const db = new Database(join(folder, 'shop.sqlite'));
  db.pragma('journal_mode = WAL');
  db.pragma('synchronous = NORMAL');
  db.pragma('foreign_keys = ON');
  db.pragma('busy_timeout = 5000');
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
  return db;
}
