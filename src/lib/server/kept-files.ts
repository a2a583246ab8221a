import type { Db } from './db/open';
import type { FileStore } from './files';

/** The file that was made for a key, or what `make` gives now, kept for the next time. @returns its path */
export async function keptFile(db: Db, files: FileStore, key: string, make: () => Promise<Uint8Array>): Promise<string> {
  const known = db.prepare<[string], { hash: string }>('SELECT hash FROM kept_file WHERE key = ?').get(key);
  if (known && files.has(known.hash)) return files.path(known.hash);
  const hash = await files.put(await make());
  db.prepare('INSERT INTO kept_file (key, hash) VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET hash = excluded.hash').run(
    key,
    hash
  );
  return files.path(hash);
}
