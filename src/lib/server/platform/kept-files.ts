import type { Db } from './db/open';
import type { FileStore } from './files';

/** Pictures and measurements that are kept; one more makes the oldest go. Profiles stay for good. */
const MOST_PICTURES = 3000;
const PICTURES = "key NOT LIKE 'source/%'";

/** The file that was made for a key; none when it was not, or is gone. */
export function findKept(db: Db, files: FileStore, key: string): string | undefined {
  const known = db.prepare<[string], { hash: string }>('SELECT hash FROM kept_file WHERE key = ?').get(key);
  return known && files.has(known.hash) ? files.path(known.hash) : undefined;
}

/** The file that was made for a key, or what `make` gives now, kept for the next time. @returns its path */
export async function keptFile(db: Db, files: FileStore, key: string, make: () => Promise<Uint8Array>): Promise<string> {
  const known = findKept(db, files, key);
  if (known !== undefined) return known;
  const hash = await files.put(await make());
  db.prepare('INSERT OR REPLACE INTO kept_file (key, hash, kept_at) VALUES (?, ?, ?)').run(key, hash, Date.now());
  dropOldest(db, files);
  return files.path(hash);
}

function dropOldest(db: Db, files: FileStore): void {
  const { n } = db.prepare<[], { n: number }>(`SELECT count(*) AS n FROM kept_file WHERE ${PICTURES}`).get() ?? { n: 0 };
  if (n <= MOST_PICTURES) return;
  const old = db
    .prepare<[number], { key: string; hash: string }>(
      `SELECT key, hash FROM kept_file WHERE ${PICTURES} ORDER BY kept_at LIMIT ?`
    )
    .all(n - MOST_PICTURES + MOST_PICTURES / 10);
  db.transaction(() => old.forEach(({ key }) => db.prepare('DELETE FROM kept_file WHERE key = ?').run(key)))();
  for (const hash of new Set(old.map((one) => one.hash))) files.drop(hash);
}
