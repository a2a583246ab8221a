import { createHash } from 'node:crypto';
import { createReadStream, existsSync } from 'node:fs';
import { readdir, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { openDatabase, type Db } from '../platform/db/open';

/** Looks through a data folder: the database, files against their names, and whether each has what the other says. */

export interface Finding {
  what: string;
  /** Whether it was put right, or nothing is lost by leaving it. */
  mended: boolean;
}

export interface CheckOptions {
  /** Put right what can be. */
  mend: boolean;
  /** Read every file to see whether it is what its name says. */
  contents: boolean;
  /** Files that nothing needs are left alone while they are younger. */
  youngerMs: number;
}

/** Rows that wait for something that is not there. @see mendRows */
const STUCK: { what: string; find: string; mend: string }[] = [
  {
    what: 'being read, and no task reads it',
    find: "SELECT 'Artwork ' || id AS name FROM artwork WHERE state = 'reading' AND NOT EXISTS (SELECT 1 FROM task WHERE kind = 'artwork' AND subject = artwork.id AND task.state IN ('waiting', 'working'))",
    mend: "INSERT INTO task (kind, subject, state, added_at) SELECT 'artwork', id, 'waiting', unixepoch() * 1000 FROM artwork WHERE state = 'reading' AND NOT EXISTS (SELECT 1 FROM task WHERE kind = 'artwork' AND subject = artwork.id AND task.state IN ('waiting', 'working'))"
  },
  {
    what: 'being RIPped, and no task RIPs it',
    find: "SELECT 'Run ' || id AS name FROM run WHERE state = 'ripping' AND NOT EXISTS (SELECT 1 FROM task WHERE kind = 'rip' AND subject = run.id AND task.state IN ('waiting', 'working'))",
    mend: "UPDATE run SET state = 'laying out', result = NULL, plates_name = NULL, released_at = NULL WHERE state = 'ripping' AND NOT EXISTS (SELECT 1 FROM task WHERE kind = 'rip' AND subject = run.id AND task.state IN ('waiting', 'working'))"
  },
  {
    what: 'being printed, and nothing of it goes on',
    find: "SELECT 'Run ' || id AS name FROM run WHERE state = 'printing' AND NOT EXISTS (SELECT 1 FROM print WHERE run_id = run.id AND ended_at IS NULL)",
    mend: "UPDATE run SET state = CASE WHEN (SELECT count(*) FROM print WHERE run_id = run.id AND (state = 'done' OR kept_mm IS NOT NULL)) >= run.times THEN 'printed' ELSE 'ripped' END, by_hand = 1, released_at = NULL WHERE state = 'printing' AND NOT EXISTS (SELECT 1 FROM print WHERE run_id = run.id AND ended_at IS NULL)"
  }
];

/** What an update or an earlier version may have left half-way goes on. @returns what was found */
export function mendRows(db: Db, mend = true): Finding[] {
  return STUCK.flatMap(({ what, find, mend: sql }) => {
    const names = db.prepare<[], string>(find).pluck().all();
    if (mend && names.length > 0) db.exec(sql);
    return names.map((name) => ({ what: `${name} is ${what}.`, mended: mend }));
  });
}

/** @returns what is wrong, in sentences; nothing where all is well */
export async function checkFolder(folder: string, { mend, contents, youngerMs }: CheckOptions): Promise<Finding[]> {
  const db = openDatabase(folder);
  try {
    const findings: Finding[] = [];
    const say = (what: string, mended = false) => findings.push({ what, mended });
    for (const line of db.pragma('integrity_check(20)', { simple: false }) as { integrity_check: string }[])
      if (line.integrity_check !== 'ok') say(`The database is damaged: ${line.integrity_check}.`);
    const loose = db.pragma('foreign_key_check') as { table: string; rowid: number; parent: string }[];
    for (const { table, rowid, parent } of loose) say(`Row ${rowid} of ${table} points to a ${parent} that is not there.`);
    findings.push(...mendRows(db, mend));

    const files = join(folder, 'files');
    const isThere = (hash: string) => existsSync(join(files, hash.slice(0, 2), hash));
    const missing = db
      .prepare<[], { hash: string; holder: string }>('SELECT hash, holder FROM file_use WHERE length(hash) = 64')
      .all()
      .filter(({ hash }) => !isThere(hash));
    for (const { hash, holder } of missing) {
      // What was made once is made again when it is asked for.
      const isKept = holder.startsWith('kept ');
      if (isKept && mend) db.prepare('DELETE FROM kept_file WHERE hash = ?').run(hash);
      say(`The file ${hash.slice(0, 12)}… of ${holder} is missing.`, isKept && mend);
    }

    for (const { path, what } of await unneeded(db, folder, youngerMs)) {
      if (mend) await rm(path, { force: true });
      say(what, mend);
    }
    if (contents)
      for (const { path, name } of await filesBelow(files)) {
        if (name.length !== 64 || (await hashOf(path)) === name) continue;
        if (mend) await rename(path, `${path}.damaged`);
        say(`The file ${name.slice(0, 12)}… is not what its name says: it is damaged.`);
      }

    const there = new Set((await filesBelow(join(folder, 'plates'))).map(({ name }) => name));
    const ripped = db
      .prepare<[], { id: number; plates_name: string }>('SELECT id, plates_name FROM run WHERE plates_name IS NOT NULL')
      .all();
    for (const { id, plates_name: name } of ripped) {
      if (['tif', 'overview', 'coarse'].every((ending) => there.has(`${name}.${ending}`))) continue;
      if (mend)
        db.prepare(
          "UPDATE run SET state = CASE state WHEN 'printed' THEN state ELSE 'laying out' END, plates_name = NULL, result = NULL WHERE id = ?"
        ).run(id);
      say(`The plates of run ${id} are gone: it has to be RIPped again.`, mend);
    }
    return findings;
  } finally {
    db.close();
  }
}

/** Files and plates that nothing needs and that are older: what a server leaves that dies between a file and its row. */
export async function unneeded(db: Db, folder: string, youngerMs: number): Promise<{ path: string; what: string }[]> {
  const used = db.prepare<[string], 1>('SELECT 1 FROM file_use WHERE hash = ? LIMIT 1').pluck();
  const plates = db.prepare<[string], 1>('SELECT 1 FROM run WHERE plates_name = ?').pluck();
  const found: { path: string; what: string }[] = [];
  const look = async (path: string, what: string) => {
    const age = Date.now() - ((await stat(path).catch(() => undefined))?.mtimeMs ?? Date.now());
    if (age >= youngerMs) found.push({ path, what });
  };
  for (const { path, name } of await filesBelow(join(folder, 'files')))
    if (used.get(name) === undefined && !name.endsWith('.damaged'))
      await look(path, `The file ${name.slice(0, 12)}… is needed by nothing.`);
  for (const { path, name } of await filesBelow(join(folder, 'plates')))
    if (plates.get(name.replace(/\.(tif|overview|coarse)$/, '')) === undefined)
      await look(path, `The plates ${name} are no run’s.`);
  return found;
}

async function filesBelow(folder: string): Promise<{ path: string; name: string }[]> {
  if (!existsSync(folder)) return [];
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  return entries.filter((entry) => entry.isFile()).map(({ parentPath, name }) => ({ path: join(parentPath, name), name }));
}

async function hashOf(path: string): Promise<string> {
  const sum = createHash('sha256');
  for await (const chunk of createReadStream(path)) sum.update(chunk as Uint8Array);
  return sum.digest('hex');
}
