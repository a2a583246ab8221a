import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Logger } from 'pino';
import { isTable, tablePlaces } from '$lib/arrivals';
import type { Artworks } from '../artwork/artworks';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { FileStore } from '../platform/files';
import { Problem, sentence } from '../platform/problem';
import type { ArrivalRow, ArrivalStore } from './arrival-store';
import { Elsewhere, identityAt, isEmpty, lookAt, NoFile } from './folder-files';
import { placesIn } from './folder-places';
import { FolderTaking } from './folder-taking';
import { FolderWatcher } from './folder-watcher';
import type { KeptFolder, WatchedFolders } from './watched-folders';

interface Needs {
  db: Db;
  events: Events;
  log: Logger;
  artworks: Artworks;
  files: FileStore;
  store: ArrivalStore;
  folders: WatchedFolders;
  /** Told of what was taken. */
  came: (id: number) => void;
}

/** A file counts when nothing of it changed for so long; so often it is looked at until then. */
const stillMs = () => Number(process.env.ZING_STILL_MS ?? 2000);
const LOOK_MS = 250;
/** An empty file is often one that is about to be written, and a table one whose artwork is coming: so many times as long. */
const LONGER = 10;
/** Folders that were not there, as of a network that is down, are looked for again; and files that could not be taken. */
const againMs = () => Number(process.env.ZING_FOLDERS_AGAIN_MS ?? 5000);
/** With two, pages waited for longer than a thousand files are worth. */
const AT_ONCE = 1;
/** Of one folder, files that are looked at in one go. */
const MOST_LOOKED = 200;

/** How a folder is. */
export interface FolderState {
  id: number;
  isThere: boolean;
  /** Files that wait to be taken. */
  waiting: number;
  /** What hinders it, as a sentence. */
  trouble: string | null;
}

interface Still {
  identity: string | undefined;
  since: number;
}

interface Watched {
  kept: KeptFolder;
  /** By place, what is to be taken: as it was when it was looked at last, and since when it has been so. */
  waiting: Map<string, Still>;
  /** Places whose file is taken, and not moved aside yet. */
  taken: Set<string>;
  trouble: string | null;
}

/** Takes files out of watched folders: each once, whenever the server is killed. */
export class FolderWatching {
  readonly #needs: Needs;
  readonly #files: FolderTaking;
  readonly #watched = new Map<number, Watched>();
  /** Keys of folder and place that are being taken. */
  readonly #taking = new Set<string>();
  /** What nothing changed of for a while. */
  readonly #ready = new Map<string, { watched: Watched; place: string }>();
  #timers: NodeJS.Timeout[] = [];
  #looking = false;
  #settling: Promise<void> = Promise.resolve();
  #stopped = true;

  readonly #watcher = new FolderWatcher(({ id, found, gone, trouble }) => {
    const watched = this.#watched.get(id);
    if (!watched) return;
    for (const place of found) watched.waiting.set(place, { identity: undefined, since: 0 });
    for (const place of gone) watched.waiting.delete(place);
    if (trouble !== null) this.#tell(watched, trouble);
  });

  constructor(needs: Needs) {
    this.#needs = needs;
    this.#files = new FolderTaking(needs);
    needs.events.on('folders changed', () => void this.#settle());
  }

  start(): void {
    this.#stopped = false;
    void this.#settle();
    this.#timers = [setInterval(() => void this.#settle(), againMs()), setInterval(() => void this.#look(), LOOK_MS)];
  }

  async stop(): Promise<void> {
    this.#stopped = true;
    this.#timers.forEach((timer) => clearInterval(timer));
    this.#ready.clear();
    await this.#watcher.close();
    this.#watched.clear();
  }

  states(): FolderState[] {
    return [...this.#watched].map(([id, { waiting, trouble }]) => ({
      id,
      isThere: this.#watcher.watches(id),
      waiting: waiting.size,
      trouble
    }));
  }

  /** One after the other: what was true before the first had to wait is not true of the second. */
  #settle(): Promise<void> {
    this.#settling = this.#settling
      .then(() => this.#settleOnce())
      .catch((error: unknown) => this.#needs.log.error({ error: sentence(error) }, 'folders are not watched'));
    return this.#settling;
  }

  /** Watches what is to be watched, and no more; tries again what did not go before. */
  async #settleOnce(): Promise<void> {
    if (this.#stopped) return;
    const wanted = new Map(this.#needs.folders.list().flatMap((kept) => (kept.folder.isOn ? [[kept.id, kept]] : [])));
    for (const [id, { kept }] of this.#watched) {
      const now = wanted.get(id);
      if (now?.path === kept.path) continue;
      this.#watched.delete(id);
      this.#watcher.end(id);
    }
    for (const [id, kept] of wanted) {
      const watched = this.#watched.get(id) ?? {
        kept,
        waiting: new Map<string, Still>(),
        taken: new Set<string>(),
        trouble: null
      };
      watched.kept = kept;
      this.#watched.set(id, watched);
      // A disk of the network that is away may take long to say so.
      const isThere = await stat(kept.path).then(
        (found) => found.isDirectory(),
        () => false
      );
      if (this.#stopped || this.#watched.get(id) !== watched) return;
      if (!isThere) this.#watcher.end(id);
      if (!isThere) this.#tell(watched, `${kept.folder.path} is not there. It is looked for every ${againMs() / 1000} s.`);
      else if (!this.#watcher.watches(id)) this.#watch(watched);
      else await this.#lookThrough(watched);
    }
  }

  /** Disks of the network do not tell what other machines put there. */
  async #lookThrough({ kept, taken, waiting }: Watched): Promise<void> {
    for await (const place of placesIn(kept.path))
      if (!waiting.has(place) && !taken.has(place)) waiting.set(place, { identity: undefined, since: 0 });
  }

  #watch(watched: Watched): void {
    this.#tell(watched, null);
    this.#clearAfterKill(watched);
    this.#watcher.watch(watched.kept.id, watched.kept.path);
  }

  /** What was taken and not moved aside before the server ended. */
  #clearAfterKill({ kept }: Watched): void {
    for (const row of this.#needs.store.unmoved(kept.id)) if (row.state !== 'reading') void this.settleFile(row);
  }

  #tell(watched: Watched, trouble: string | null): void {
    if (watched.trouble === trouble) return;
    watched.trouble = trouble;
    this.#needs.events.changed('arrivals');
  }

  /** Files that have not changed for a while are taken, one after the other. */
  async #look(): Promise<void> {
    if (this.#looking || this.#stopped) return;
    this.#looking = true;
    for (const watched of this.#watched.values())
      for (const [place, still] of [...watched.waiting].slice(0, MOST_LOOKED)) {
        if (this.#taking.has(keyOf(watched, place))) continue;
        const identity = await identityAt(watched.kept.path, place);
        // What was looked at stands behind what was not: those that are never taken keep nobody waiting.
        if (!watched.waiting.delete(place) || identity === undefined) continue;
        watched.waiting.set(place, identity === still.identity ? still : { identity, since: Date.now() });
        if (
          identity === still.identity &&
          Date.now() - still.since >= stillMs() * (isEmpty(identity) || isTable(place) ? LONGER : 1)
        )
          this.#ready.set(keyOf(watched, place), { watched, place });
      }
    this.#looking = false;
    this.#next();
  }

  #next(): void {
    for (const [key, { watched, place }] of this.#ready) {
      if (this.#stopped || this.#taking.size >= AT_ONCE) return;
      this.#ready.delete(key);
      if (this.#taking.has(key)) continue;
      this.#taking.add(key);
      void this.#take(watched, place)
        .then((isTaken) => {
          if (isTaken) watched.waiting.delete(place);
          // What could not be taken is tried again after a while.
          else watched.waiting.set(place, { identity: undefined, since: Date.now() });
        })
        .finally(() => {
          this.#taking.delete(key);
          this.#next();
        });
    }
  }

  /** @returns whether it is settled; else it is tried again later */
  async #take(watched: Watched, place: string): Promise<boolean> {
    const { store, events, log, came } = this.#needs;
    const { kept } = watched;
    try {
      if (kept.folder.tables && isTable(place)) return await this.#takeTable(watched, place);
      const tables = kept.folder.tables ? tablePlaces(place).filter((table) => watched.waiting.has(table)) : [];
      // A table beside it goes with it, as soon as it is whole too.
      if (tables.some((table) => !this.#isStill(watched, table))) return false;
      const { identity, bytes } = await lookAt(kept.path, place);
      const known = store.ofFile(kept.id, place, identity);
      if (known) {
        if (known.state !== 'reading') await this.settleFile(known);
        return true;
      }
      const id = await this.#files.store(kept, place, identity, bytes, tables[0]);
      watched.taken.add(place);
      if (tables[0] !== undefined) {
        watched.taken.add(tables[0]);
        watched.waiting.delete(tables[0]);
      }
      this.#tell(watched, null);
      events.changed('arrivals', [id]);
      came(id);
      return true;
    } catch (error) {
      if (error instanceof NoFile) return this.#refuse(watched, place, error.message);
      if (isGone(error) || error instanceof Elsewhere) {
        this.#tell(watched, null);
        return true;
      }
      // It is being written again, the disk is full, a right is missing: what lies there stays there.
      log.info({ folder: kept.path, place, error: sentence(error) }, 'not taken yet');
      this.#tell(watched, `${place}: ${whyNot(error)}`);
      return error instanceof Problem && error.status < 500 ? this.#refuse(watched, place, error.message) : false;
    }
  }

  #isStill({ waiting }: Watched, place: string): boolean {
    const still = waiting.get(place);
    return still?.identity !== undefined && Date.now() - still.since >= stillMs();
  }

  /** A table by itself: it waits for its artwork, and is refused when that does not come. */
  async #takeTable(watched: Watched, place: string): Promise<boolean> {
    const { kept, waiting, taken } = watched;
    const { identity } = await lookAt(kept.path, place);
    const known = this.#needs.store.ofTable(kept.id, place, identity);
    if (known) {
      if (known.state !== 'reading') await this.settleFile(known);
      return true;
    }
    if ([...waiting.keys(), ...taken].some((other) => !isTable(other) && tablePlaces(other).includes(place))) return false;
    throw new NoFile(
      'It is a table, and no artwork of the same name lies beside it. Put both there together: the table is what differs from copy to copy.'
    );
  }

  /** What is no file that could be taken goes aside with the reason. */
  async #refuse({ kept }: Watched, place: string, reason: string): Promise<boolean> {
    const row = await this.#files.refuse(kept, place, reason);
    if (!row) return true;
    await this.settleFile(row);
    this.#needs.events.changed('arrivals', [row.id]);
    return true;
  }

  /** Moves the file of an arrival aside, if it is that file still. */
  async settleFile(row: ArrivalRow): Promise<void> {
    const { folders, log } = this.#needs;
    if (row.moved === 1 || row.folder_id === null) return;
    const kept = folders.list().find(({ id }) => id === row.folder_id);
    if (!kept) return;
    // Once it is past its reading, whatever lies there is looked at again.
    for (const place of [row.place, row.table_place]) if (place !== null) this.#watched.get(kept.id)?.taken.delete(place);
    try {
      await this.#files.moveAside(kept, row);
    } catch (error) {
      // It stays where it is, is known there, and is not taken again.
      log.info({ path: join(kept.path, row.place), error: sentence(error) }, 'not moved aside');
      const watched = this.#watched.get(kept.id);
      if (watched) this.#tell(watched, `${row.place} was taken and cannot be moved aside: ${whyNot(error)}`);
    }
  }
}

const keyOf = ({ kept }: Watched, place: string): string => `${kept.id}/${place}`;

const isGone = (error: unknown): boolean => error instanceof Error && 'code' in error && error.code === 'ENOENT';

function whyNot(error: unknown): string {
  const code = error instanceof Error && 'code' in error ? error.code : undefined;
  if (code === 'EACCES' || code === 'EPERM') return 'the server may not read or move it. Give it the right to.';
  if (code === 'EBUSY') return 'another program has it open. It is tried again.';
  if (code === 'EROFS') return 'the disk that it is on cannot be written to.';
  return `${sentence(error)} It is tried again.`;
}
