import { existsSync, mkdirSync, readdirSync, realpathSync, statSync } from 'node:fs';
import { homedir } from 'node:os';
import { isAbsolute, join, resolve } from 'node:path';
import { WatchedFolder } from '$lib/arrivals';
import { freshNumber } from '../platform/db/fresh-number';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import { isWithin, OWN_FOLDER, whyUnwatched } from './folder-files';
import { REFUSED, TAKEN } from './folder-places';
import type { Recipes } from './recipes';

export interface KeptFolder {
  id: number;
  version: number;
  folder: WatchedFolder;
  /** Where it is on the server's disk. */
  path: string;
}

interface Needs {
  db: Db;
  events: Events;
  recipes: Recipes;
  /** The shop's own data folder. */
  dataFolder: string;
}

const MOST_FOLDERS = 50;

/** Which folders are watched, and what becomes of what lies there. */
export class WatchedFolders {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  list(): KeptFolder[] {
    return this.#needs.db
      .prepare<[], { id: number; document: string; version: number }>('SELECT * FROM watched_folder ORDER BY id')
      .all()
      .map((row) => this.#toFolder(row));
  }

  get(id: number): KeptFolder {
    const row = this.#needs.db
      .prepare<[number], { id: number; document: string; version: number }>('SELECT * FROM watched_folder WHERE id = ?')
      .get(id);
    if (!row) throw new Problem(404, 'There is no such folder.');
    return this.#toFolder(row);
  }

  /** @throws Problem for one that cannot be watched, with the reason */
  add(folder: WatchedFolder): KeptFolder {
    const { db, events } = this.#needs;
    if (this.list().length >= MOST_FOLDERS) throw new Problem(422, `${MOST_FOLDERS} folders are watched, the most.`);
    this.#check(folder, 0);
    const id = freshNumber(db, 'watched_folder');
    db.prepare('INSERT INTO watched_folder (id, document) VALUES (?, ?)').run(id, JSON.stringify(folder));
    events.changed('arrivals');
    events.tell('folders changed', undefined);
    return this.get(id);
  }

  change(id: number, version: number, folder: WatchedFolder): KeptFolder {
    const { db, events } = this.#needs;
    if (this.get(id).version !== version) throw new Problem(409, 'This folder was changed in another window meanwhile. It is shown as it is now; make your change again.'); // prettier-ignore
    this.#check(folder, id);
    db.prepare('UPDATE watched_folder SET document = ?, version = version + 1 WHERE id = ?').run(JSON.stringify(folder), id);
    events.changed('arrivals');
    events.tell('folders changed', undefined);
    return this.get(id);
  }

  /** It is watched no more; it and all that lies in it stays on the disk. */
  remove(id: number): void {
    const { db, events } = this.#needs;
    this.get(id);
    db.prepare('DELETE FROM watched_folder WHERE id = ?').run(id);
    events.changed('arrivals');
    events.tell('folders changed', undefined);
  }

  /** @param id of one that is watched already; 0 for a new one */
  #check(folder: WatchedFolder, id: number): void {
    const { dataFolder, recipes } = this.#needs;
    if (folder.recipeId !== null) recipes.whole(folder.recipeId);
    const path = this.#pathOf(folder);
    const others = this.list().filter((other) => other.id !== id);
    const known = { dataFolder, own: [process.cwd(), homedir()], others: others.map((other) => other.path) };
    // A link may lead to what is not to be watched.
    const why = whyUnwatched(path, known) ?? (existsSync(path) ? whyUnwatched(realpathSync(path), known) : undefined);
    if (why) throw new Problem(422, `${folder.path} ${why} Choose another folder.`);
    if (others.length + 1 === this.list().length && this.get(id).path === path) return;
    try {
      if (existsSync(path) && !statSync(path).isDirectory()) throw new Error('It is a file.');
      mkdirSync(path, { recursive: true });
    } catch (error) {
      throw new Problem(422, `${folder.path} cannot be made: ${error instanceof Error ? error.message : String(error)}`);
    }
    const lies = readdirSync(path).filter((name) => name !== TAKEN && name !== REFUSED).length;
    if (lies > 0 && !folder.withAll)
      throw new Problem(
        409,
        `In ${folder.path} ${lies === 1 ? 'lies one thing' : `lie ${lies.toLocaleString('en-GB')} things`} already: all files there would be taken and moved aside. Choose an empty folder, or say that this is meant.`,
        { withAll: 'Something lies there already.' }
      );
  }

  #pathOf({ path }: WatchedFolder): string {
    if (path.includes('\0')) throw new Problem(422, 'A path has no such signs.');
    const { dataFolder } = this.#needs;
    if (isAbsolute(path)) return resolve(path);
    const own = resolve(dataFolder, OWN_FOLDER, path);
    if (!isWithin(own, join(dataFolder, OWN_FOLDER)))
      throw new Problem(422, 'A path that leads out of the shop’s own folder begins at the root.');
    return own;
  }

  #toFolder({ id, document, version }: { id: number; document: string; version: number }): KeptFolder {
    const folder = WatchedFolder.parse(JSON.parse(document));
    return { id, version, folder, path: this.#pathOf(folder) };
  }
}
