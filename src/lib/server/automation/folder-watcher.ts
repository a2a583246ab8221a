import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { NODE_BUILD } from '../platform/tasks/pool';
import type { WatchAsked, WatchTold } from './workers/watching';

/** Folders watched in a thread beside. Where that ends, a new one takes up what it watched. */
export class FolderWatcher {
  readonly #told: (told: WatchTold) => void;
  readonly #paths = new Map<number, string>();
  #thread: Worker | undefined;

  constructor(told: (told: WatchTold) => void) {
    this.#told = told;
  }

  watches(id: number): boolean {
    return this.#paths.has(id);
  }

  watch(id: number, path: string): void {
    this.#paths.set(id, path);
    if (this.#thread) this.#ask({ ask: 'watch', id, path });
    else this.#begin();
  }

  end(id: number): void {
    if (this.#paths.delete(id)) this.#ask({ ask: 'end', id });
  }

  async close(): Promise<void> {
    this.#paths.clear();
    const thread = this.#thread;
    this.#thread = undefined;
    await thread?.terminate();
  }

  #begin(): void {
    const thread = new Worker(join(NODE_BUILD, 'watch-worker.js'));
    this.#thread = thread;
    thread.on('message', (told: WatchTold) => {
      if (this.#paths.has(told.id)) this.#told(told);
    });
    // It is told by its end; what it watched is looked through meanwhile.
    thread.on('error', () => undefined);
    thread.on('exit', () => {
      if (this.#thread !== thread) return;
      this.#thread = undefined;
      if (this.#paths.size > 0) setTimeout(() => !this.#thread && this.#paths.size > 0 && this.#begin(), AGAIN_MS).unref();
    });
    thread.unref();
    for (const [id, path] of this.#paths) this.#ask({ ask: 'watch', id, path });
  }

  #ask(asked: WatchAsked): void {
    this.#thread?.postMessage(asked);
  }
}

const AGAIN_MS = 1000;
