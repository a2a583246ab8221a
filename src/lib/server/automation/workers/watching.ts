import { setPriority } from 'node:os';
import { relative } from 'node:path';
import { parentPort } from 'node:worker_threads';
import { watch, type FSWatcher } from 'chokidar';
import { NICENESS } from '../../platform/tasks/pool';
import { DEEPEST, isLeft } from '../folder-places';

/**
 * Watches folders in a thread of its own: of a folder with a thousand files, chokidar looks at each of them again whenever one is
 * moved away.
 */

export type WatchAsked = { ask: 'watch'; id: number; path: string } | { ask: 'end'; id: number };
/** What came or changed, what went, and what is wrong, of a folder. */
export interface WatchTold {
  id: number;
  found: string[];
  gone: string[];
  trouble: string | null;
}

// Pages and their server come first: on Linux this is of the thread alone.
if (process.platform === 'linux') setPriority(NICENESS);

/** What happens meanwhile is told together. */
const TELL_MS = 50;
const watchers = new Map<number, FSWatcher>();
const untold = new Map<number, WatchTold>();

function tell(id: number, add: (told: WatchTold) => void): void {
  if (untold.size === 0) setTimeout(tellAll, TELL_MS);
  const told = untold.get(id) ?? { id, found: [], gone: [], trouble: null };
  untold.set(id, told);
  add(told);
}

function tellAll(): void {
  for (const told of untold.values()) if (watchers.has(told.id)) parentPort?.postMessage(told);
  untold.clear();
}

function begin(id: number, path: string): void {
  const watcher = watch(path, {
    followSymlinks: false,
    depth: DEEPEST,
    ignored: (one) => one !== path && isLeft(relative(path, one)),
    ignorePermissionErrors: true
  });
  watchers.set(id, watcher);
  const found = (one: string) => tell(id, (told) => told.found.push(relative(path, one)));
  watcher.on('add', found);
  watcher.on('change', found);
  watcher.on('unlink', (one) => tell(id, (told) => told.gone.push(relative(path, one))));
  watcher.on('error', (error) => tell(id, (told) => (told.trouble = error instanceof Error ? error.message : String(error))));
}

parentPort?.on('message', (asked: WatchAsked) => {
  void watchers.get(asked.id)?.close();
  watchers.delete(asked.id);
  if (asked.ask === 'watch') begin(asked.id, asked.path);
});
