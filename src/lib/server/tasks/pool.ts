import { availableParallelism } from 'node:os';
import { join, resolve } from 'node:path';
import { Piscina } from 'piscina';

/** Where the built workers and compiled loops are; the folder the program is started in holds them. */
export const NODE_BUILD = resolve(process.env.ZING_NODE_BUILD ?? 'dist-node');
export const KERNELS_FILE = join(NODE_BUILD, 'kernels.wasm');
export const MASK_FILE = resolve('core/screening/blue-noise-256.bin');

/** What looks at customers' files, and draws them. */
export const ARTWORK_PROCESS = join(NODE_BUILD, 'artwork-process.js');

export const THREADS = Math.max(1, availableParallelism());

/** Threads for one kind of work. A task that is aborted ends its thread at once; the pool starts a fresh one. */
export function makePool(worker: 'rip-worker' | 'profile-worker' | 'layout-worker', threads = THREADS): Piscina {
  const pool = new Piscina({
    filename: join(NODE_BUILD, `${worker}.js`),
    minThreads: 0,
    maxThreads: threads,
    // Threads hold the interpreter's memory, which never shrinks: let go of it soon.
    idleTimeout: 5_000,
    concurrentTasksPerWorker: 1
  });
  // A thread that breaks between tasks is replaced; the task that broke one has been told.
  pool.on('error', () => undefined);
  return pool;
}
