import { availableParallelism } from 'node:os';
import { join, resolve } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { Piscina } from 'piscina';
import { Problem } from '../problem';

/** Where the built workers and compiled loops are; the folder the program is started in holds them. */
export const NODE_BUILD = resolve(process.env.ZING_NODE_BUILD ?? 'dist-node');
export const KERNELS_FILE = join(NODE_BUILD, 'kernels.wasm');
export const MASK_FILE = resolve('core/screening/blue-noise-256.bin');

/** What looks at customers' files, and what draws them. */
export const INTAKE_PROCESS = join(NODE_BUILD, 'intake-process.js');
export const DRAWING_PROCESS = join(NODE_BUILD, 'drawing-process.js');

export const THREADS = Math.max(1, availableParallelism());

/** What one thread may take of JavaScript's own memory; pixels and modules have theirs. */
const MOST_HEAP_MB = 3000;
const MOST_WAITING = 500;
/** Processes that look at files and draw them, and what watches folders, stand behind the server that answers pages. */
export const NICENESS = 5;
/** Threads, which compute for long, stand further behind: they run when nobody else has need of the processor. */
const THREAD_NICENESS = 15;

/** A thread whose module broke ends itself. */
export const threadBroke = (error: unknown): boolean =>
  error instanceof Error && error.message.startsWith('worker exited with code');

/** A thread that is not there after so long is ended all the same. */
const LONGEST_BEGINNING_MS = 30_000;

/**
 * Threads that are not ended before they have begun. One that is ended while it evaluates a module that awaits at its top, as the
 * interpreter's does, takes the whole process with it: V8 checks there that nothing breaks that off.
 */
export class Threads extends Piscina {
  readonly #begun = new Set<number>();

  constructor(options: ConstructorParameters<typeof Piscina>[0]) {
    super(options);
    this.on('workerCreate', ({ id }: { id: number }) => this.#begun.add(id));
    this.on('workerDestroy', ({ id }: { id: number }) => this.#begun.delete(id));
  }

  override async destroy(): Promise<void> {
    const until = performance.now() + LONGEST_BEGINNING_MS;
    while (performance.now() < until && this.threads.some(({ threadId }) => !this.#begun.has(threadId))) await setTimeout(20);
    await super.destroy();
  }
}

/** Tries work whose thread broke once more, in a fresh one; the second time it is told in plain words. */
export class SecondTry extends Threads {
  override async run(...work: Parameters<Piscina['run']>): Promise<unknown> {
    try {
      return (await super.run(...work)) as unknown;
    } catch (error) {
      if (error instanceof Error && /queue is at limit/i.test(error.message))
        throw new Problem(503, `${MOST_WAITING} others wait for the same already. Try again in a minute.`);
      if (!threadBroke(error)) throw error;
    }
    try {
      return (await super.run(...work)) as unknown;
    } catch (error) {
      if (!threadBroke(error)) throw error;
      throw new Error(
        'This breaks the program that works on it, twice in a row. Try it with another profile or other readings.',
        {
          cause: error
        }
      );
    }
  }
}

/** Threads for one kind of work. A task that is aborted ends its thread at once; the pool starts a fresh one. */
export function makePool(
  worker: 'rip-worker' | 'plate-worker' | 'profile-worker' | 'cut-worker' | 'layout-worker' | 'card-worker' | 'table-worker',
  threads = THREADS
): Piscina {
  // A RIP begins anew as a whole, not with the band that broke.
  const Pool = worker === 'rip-worker' ? Threads : SecondTry;
  const pool = new Pool({
    filename: join(NODE_BUILD, `${worker}.js`),
    minThreads: 0,
    maxThreads: threads,
    // Threads hold the interpreter's memory, which never shrinks: let go of it soon.
    idleTimeout: 5_000,
    concurrentTasksPerWorker: 1,
    niceIncrement: THREAD_NICENESS,
    resourceLimits: { maxOldGenerationSizeMb: MOST_HEAP_MB },
    // A RIP asks for all of its bands at once; others are asked for by people.
    ...(worker !== 'rip-worker' && { maxQueue: MOST_WAITING })
  });
  // A thread that breaks between tasks is replaced; the task that broke one has been told.
  pool.on('error', () => undefined);
  return pool;
}
