import { fork, type ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { setPriority } from 'node:os';
import { ArtworkError } from '$core/artwork/facts';
import { Problem } from '../problem';
import { NICENESS } from './pool';

/**
 * Processes for work on customers' files. A thread cannot be ended inside a native call, and what it takes of memory cannot
 * be told from the server's: a process can be ended at any moment, with all that it started, and its memory is counted.
 */

export interface ProcessLimits {
  /** Time of its own computing: on a busy machine a good file takes longer by the clock, and is not at fault. */
  seconds: number;
  megabytes: number;
}

/** Why a piece of work has no answer. */
export class WorkEnded extends Error {
  override name = 'WorkEnded';
  override readonly cause: 'time' | 'memory' | 'stalled' | 'broke';

  constructor(cause: WorkEnded['cause']) {
    super(
      {
        time: 'It took too long.',
        memory: 'It took too much memory.',
        stalled: 'It did not get to compute.',
        broke: 'It broke the program that worked on it.'
      }[cause]
    );
    this.cause = cause;
  }
}

export type Answer =
  | { ok: true; value: unknown }
  /** What is the file's fault and what is told are for an operator's eyes; other errors are for the log. */
  | { ok: false; error: string; fault: 'file' | 'unknown' }
  | { ok: false; error: string; fault: 'told'; status: number };

/** Memory beyond the limit that the work found to be necessary, and bounded: the pixels of a picture. */
export interface Needs {
  needs: number;
}

/** How much of the work is done, 0…1. */
export interface Done {
  done: number;
}

interface Job {
  name: string;
  request: unknown;
  limits: ProcessLimits;
  signal: AbortSignal | undefined;
  progress: ((share: number) => void) | undefined;
  resolve: (value: unknown) => void;
  reject: (error: unknown) => void;
}

interface Lane {
  child: ChildProcess | undefined;
  idle: NodeJS.Timeout | undefined;
  busy: boolean;
  slow: boolean;
}

/** How long a process waits for more work. The interpreter's memory never shrinks: it is let go of soon. */
const IDLE_MS = 5_000;
const LOOK_MS = 100;
/** What is asked for beyond that is turned away: whoever asks has more patience than the server has memory. */
const MOST_WAITING = 2000;
const PAGE_BYTES = 4096;
const TICKS_A_SECOND = 100;
/** What does not get to compute, or waits for ever, is ended when the clock says so many times its limit. */
const CLOCK_FACTOR = 6;
/** Behind the quick lanes, and not so far that a busy machine never comes to it. */
const SLOW_NICENESS = 10;

export interface PoolShape {
  /** How many work at once. */
  lanes: number;
  /**
   * Work that has taken this long is put aside for lanes of its own, so that it holds nobody up: it begins again there, at a
   * lower priority, with the time that it was given.
   */
  slow?: { afterSeconds: number; lanes: number };
}

export class ProcessPool {
  readonly #script: string;
  readonly #slowAfter: number;
  readonly #lanes: Lane[];
  readonly #waiting: Job[] = [];
  readonly #waitingSlow: Job[] = [];
  #closed = false;

  /** @param script what each process runs */
  constructor(script: string, { lanes, slow }: PoolShape) {
    this.#script = script;
    this.#slowAfter = slow?.afterSeconds ?? Infinity;
    const lane = (isSlow: boolean) => () => ({ child: undefined, idle: undefined, busy: false, slow: isSlow });
    this.#lanes = [...Array.from({ length: lanes }, lane(false)), ...Array.from({ length: slow?.lanes ?? 0 }, lane(true))];
  }

  /**
   * Carries out one piece of work. A process that broke is replaced and the work tried once more.
   *
   * @throws WorkEnded when it takes too long or too much memory, or breaks a second process; what the work itself throws
   */
  run<T>(
    name: string,
    request: unknown,
    limits: ProcessLimits,
    signal?: AbortSignal,
    progress?: (share: number) => void
  ): Promise<T> {
    return new Promise<T>((resolve, reject) => {
      if (this.#closed) return reject(new Error('The server stops.'));
      if (this.#waiting.length >= MOST_WAITING)
        return reject(new Problem(503, `${MOST_WAITING} files wait to be worked on already. Try again in a minute.`));
      this.#waiting.push({ name, request, limits, signal, progress, resolve: resolve as (value: unknown) => void, reject });
      this.#next();
    });
  }

  async destroy(): Promise<void> {
    this.#closed = true;
    for (const job of [...this.#waiting.splice(0), ...this.#waitingSlow.splice(0)]) job.reject(new Error('The server stops.'));
    await Promise.all(
      this.#lanes.map(
        ({ child }) =>
          new Promise<void>((resolve) => {
            if (!child || child.exitCode !== null || child.signalCode !== null) return resolve();
            child.once('exit', () => resolve());
            child.ref();
            end(child);
          })
      )
    );
  }

  #next(): void {
    if (this.#closed) return;
    for (const lane of this.#lanes) {
      if (lane.busy) continue;
      const job = (lane.slow ? this.#waitingSlow : this.#waiting).shift();
      if (job) void this.#carryOut(lane, job);
    }
  }

  async #carryOut(lane: Lane, job: Job): Promise<void> {
    lane.busy = true;
    clearTimeout(lane.idle);
    const putsAside = !lane.slow && this.#slowAfter < job.limits.seconds;
    const seconds = putsAside ? this.#slowAfter : job.limits.seconds;
    try {
      const answer = await this.#once(lane, job, seconds).catch((error: unknown) => {
        if (error instanceof WorkEnded && error.cause === 'broke' && !this.#closed) return this.#once(lane, job, seconds);
        throw error;
      });
      if (answer.ok) job.resolve(answer.value);
      else job.reject(errorOf(answer));
    } catch (error) {
      if (putsAside && !this.#closed && error instanceof WorkEnded && (error.cause === 'time' || error.cause === 'stalled'))
        this.#waitingSlow.push(job);
      else job.reject(error);
    }
    lane.busy = false;
    lane.idle = setTimeout(() => {
      const { child } = lane;
      lane.child = undefined;
      if (child) end(child);
    }, IDLE_MS).unref();
    this.#next();
  }

  #once(lane: Lane, { name, request, limits, signal, progress }: Job, seconds: number): Promise<Answer> {
    return new Promise<Answer>((resolve, reject) => {
      if (signal?.aborted) return reject(signal.reason as Error);
      const child = (lane.child ??= this.#start(lane));
      const started = performance.now();
      const computedBefore = computedBy(child.pid);
      let allowed = limits.megabytes;
      const look = setInterval(() => {
        const clock = (performance.now() - started) / 1000;
        // Several threads of one file compute for more than the clock says.
        const taken = Math.min(clock, computedBy(child.pid) - computedBefore);
        if (taken > seconds) stop(new WorkEnded('time'));
        else if (clock > seconds * CLOCK_FACTOR) stop(new WorkEnded('stalled'));
        else if (memoryOf(child) > allowed * 1e6) stop(new WorkEnded('memory'));
      }, LOOK_MS);
      const cancel = () => stop(signal?.reason as Error);
      const leave = () => {
        clearInterval(look);
        signal?.removeEventListener('abort', cancel);
        child.off('message', answered).off('exit', broke).off('error', broke);
      };
      const stop = (error: Error) => {
        leave();
        lane.child = undefined;
        end(child);
        reject(error);
      };
      const broke = () => stop(new WorkEnded('broke'));
      const answered = (message: unknown) => {
        const told = message as Answer | Needs | Done;
        if ('done' in told) {
          progress?.(told.done);
          return;
        }
        if ('needs' in told) {
          allowed = limits.megabytes + told.needs;
          return;
        }
        leave();
        resolve(told);
      };
      signal?.addEventListener('abort', cancel);
      child.on('message', answered).on('exit', broke).on('error', broke);
      child.send({ name, request }, (error) => error && broke());
    });
  }

  #start(lane: Lane): ChildProcess {
    // A group of its own, so that what it starts is ended with it.
    const child = fork(this.#script, [], {
      serialization: 'advanced',
      detached: true,
      stdio: ['ignore', 'ignore', 'ignore', 'ipc']
    });
    child.on('exit', () => {
      if (lane.child === child) lane.child = undefined;
    });
    child.on('error', () => undefined);
    child.unref();
    child.channel?.unref();
    if (child.pid !== undefined) setPriority(child.pid, lane.slow ? SLOW_NICENESS : NICENESS);
    return child;
  }
}

function errorOf(answer: Extract<Answer, { ok: false }>): Error {
  if (answer.fault === 'file') return new ArtworkError(answer.error);
  return answer.fault === 'told' ? new Problem(answer.status, answer.error) : new Error(answer.error);
}

function end(child: ChildProcess): void {
  if (child.pid === undefined || child.exitCode !== null || child.signalCode !== null) return;
  try {
    process.kill(-child.pid, 'SIGKILL');
  } catch {
    child.kill('SIGKILL');
  }
}

/** Memory that a process holds, bytes; 0 where the system does not tell. */
function memoryOf(child: ChildProcess): number {
  try {
    return Number(readFileSync(`/proc/${child.pid}/statm`, 'latin1').split(' ')[1]) * PAGE_BYTES;
  } catch {
    return 0;
  }
}

/**
 * Time that a process has computed, with what it started, s; infinite where the system does not tell.
 * Source: proc(5), utime to cstime, and the children of the first thread, which starts them.
 */
function computedBy(pid: number | undefined): number {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'latin1');
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
    const own = fields.slice(11, 15).reduce((sum, ticks) => sum + Number(ticks), 0) / TICKS_A_SECOND;
    const children = readFileSync(`/proc/${pid}/task/${pid}/children`, 'latin1').split(' ').filter(Boolean);
    return children
      .map(Number)
      .map(computedBy)
      .filter(Number.isFinite)
      .reduce((sum, seconds) => sum + seconds, own);
  } catch {
    return Infinity;
  }
}
