import type { Logger } from 'pino';
import { mayPass, type Db } from '../db/open';
import type { Events, TaskProgress } from '../events';
import { Problem, sentence } from '../problem';

export interface TaskRow {
  id: number;
  kind: 'artwork' | 'rip' | 'start' | 'build';
  subject: string;
  state: 'waiting' | 'working' | 'done' | 'failed' | 'cancelled';
  error: string | null;
  /** How often it was begun. */
  attempts: number;
  added_at: number;
  ended_at: number | null;
}

export interface TaskContext {
  signal: AbortSignal;
  progress: (share: number) => void;
}

/** One kind of long work. What is written down at its end is written with the end of the task, both or neither. */
export interface TaskKind {
  /** How many of the kind go on at once. */
  most: number;
  /** Its work is done in processes of its own: whatever ended the server, this did not. */
  apart?: boolean;
  /** @returns what writes the result down */
  work: (subject: string, context: TaskContext) => Promise<(() => void) | undefined>;
  /** Writes down that it did not come to its end: it failed, or was cancelled, perhaps before it began. */
  unfinished?: (subject: string, how: 'failed' | 'cancelled', error: unknown) => void;
  /** Told when either is written down. */
  told?: (subject: string) => void;
}

interface Working {
  kind: TaskRow['kind'];
  subject: string;
  stop: AbortController;
  share: number;
  /** By a clock that nobody sets. */
  startedAt: number;
  toldAt: number;
}

interface Outcome {
  state: 'done' | 'failed' | 'cancelled';
  error: string | null;
  write: () => void;
}

/** Work that ended the server so often is not begun again. */
const MOST_ATTEMPTS = 3;
/** How long until what could not be written down, on a full disk, is tried again. */
const WRITE_AGAIN_MS = 1000;
const GAVE_UP = `This work ended the server ${MOST_ATTEMPTS} times, and is not begun again by itself. Begin it again by hand once you have looked at what it works on.`;

/** Long work that outlives the page and the server: rows in SQLite, carried out a few at a time of each kind. */
export class TaskRunner {
  readonly #db: Db;
  readonly #events: Events;
  readonly #log: Logger;
  readonly #kinds = new Map<TaskRow['kind'], TaskKind>();
  readonly #working = new Map<number, Working>();
  readonly #waiters = new Map<number, (() => void)[]>();
  readonly #timers = new Set<NodeJS.Timeout>();
  /** The server stops: what is at work is broken off, and begins again at the next start. */
  closed = false;

  constructor(db: Db, events: Events, log: Logger) {
    this.#db = db;
    this.#events = events;
    this.#log = log;
  }

  register(kind: TaskRow['kind'], how: TaskKind): void {
    this.#kinds.set(kind, how);
  }

  /** Begins again with what a stopped server left, but for what stopped it. */
  start(): void {
    const left = this.#db.prepare<[], TaskRow>("SELECT * FROM task WHERE state = 'working'").all();
    for (const row of left) {
      if (row.attempts < MOST_ATTEMPTS || this.#kinds.get(row.kind)?.apart)
        this.#db.prepare("UPDATE task SET state = 'waiting' WHERE id = ?").run(row.id);
      else this.#end(row, this.#unfinished(row, 'failed', new Problem(500, GAVE_UP)));
    }
    this.#next();
  }

  /** Adds work, or gives the same where it waits already. What is at work has begun with what was there before. */
  add(kind: TaskRow['kind'], subject: string | number): TaskRow {
    const same = this.#db
      .prepare<[string, string], TaskRow>("SELECT * FROM task WHERE kind = ? AND subject = ? AND state = 'waiting'")
      .get(kind, String(subject));
    if (same) return same;
    const { lastInsertRowid } = this.#db
      .prepare("INSERT INTO task (kind, subject, state, added_at) VALUES (?, ?, 'waiting', ?)")
      .run(kind, String(subject), Date.now());
    const row = this.get(Number(lastInsertRowid)) as TaskRow;
    this.#tell(row.id);
    setImmediate(() => this.#next());
    return row;
  }

  get(id: number): TaskRow | undefined {
    return this.#db.prepare<[number], TaskRow>('SELECT * FROM task WHERE id = ?').get(id);
  }

  /** The newest task about something. */
  latest(kind: TaskRow['kind'], subject: string | number): TaskProgress | undefined {
    const row = this.#db
      .prepare<[string, string], TaskRow>('SELECT * FROM task WHERE kind = ? AND subject = ? ORDER BY id DESC LIMIT 1')
      .get(kind, String(subject));
    return row && this.#progress(row);
  }

  open(): TaskProgress[] {
    return this.#db
      .prepare<[], TaskRow>("SELECT * FROM task WHERE state IN ('waiting', 'working') ORDER BY id")
      .all()
      .map((row) => this.#progress(row));
  }

  /** @throws Problem when there is no such task, or it has ended */
  cancel(id: number): void {
    const row = this.get(id);
    if (!row) throw new Problem(404, 'There is no such task.');
    const reason = new Problem(409, 'It was cancelled.');
    const working = this.#working.get(id);
    if (working) working.stop.abort(reason);
    else if (row.state === 'waiting') this.#end(row, this.#unfinished(row, 'cancelled', reason));
    else throw new Problem(409, 'It has ended already.');
  }

  /** Waits until a task has ended. */
  ended(id: number): Promise<TaskRow> {
    const row = this.get(id);
    if (!row) return Promise.reject(new Problem(404, 'There is no such task.'));
    if (row.state !== 'waiting' && row.state !== 'working') return Promise.resolve(row);
    return new Promise((resolve) => {
      const list = this.#waiters.get(id) ?? [];
      list.push(() => resolve(this.get(id) as TaskRow));
      this.#waiters.set(id, list);
    });
  }

  /** Lets go of everything. What was at work begins again at the next start, and this attempt does not count. */
  close(): void {
    this.closed = true;
    for (const timer of this.#timers) clearTimeout(timer);
    this.#db.prepare("UPDATE task SET state = 'waiting', attempts = attempts - 1 WHERE state = 'working'").run();
    for (const { stop } of this.#working.values()) stop.abort(new Problem(503, 'The server stops.'));
  }

  #next(): void {
    if (this.closed) return;
    const rows = this.#db.prepare<[], TaskRow>("SELECT * FROM task WHERE state = 'waiting' ORDER BY id").all();
    const busy = new Map<TaskRow['kind'], number>();
    const subjects = new Set<string>();
    for (const { kind, subject } of this.#working.values()) {
      busy.set(kind, (busy.get(kind) ?? 0) + 1);
      subjects.add(`${kind}/${subject}`);
    }
    for (const row of rows) {
      const kind = this.#kinds.get(row.kind);
      const now = busy.get(row.kind) ?? 0;
      if (!kind || now >= kind.most || subjects.has(`${row.kind}/${row.subject}`)) continue;
      busy.set(row.kind, now + 1);
      subjects.add(`${row.kind}/${row.subject}`);
      void this.#work(row, kind);
    }
  }

  async #work(row: TaskRow, kind: TaskKind): Promise<void> {
    const { kind: name, subject } = row;
    const working: Working = {
      kind: name,
      subject,
      stop: new AbortController(),
      share: 0,
      startedAt: performance.now(),
      toldAt: 0
    };
    try {
      this.#db.prepare("UPDATE task SET state = 'working', attempts = attempts + 1 WHERE id = ?").run(row.id);
    } catch (error) {
      this.#log.error({ task: row.id, error: sentence(error) }, 'a task could not be begun; it is tried again');
      this.#later(() => this.#next());
      return;
    }
    this.#working.set(row.id, working);
    this.#tell(row.id);
    let outcome: Outcome;
    try {
      const write = await kind.work(row.subject, {
        signal: working.stop.signal,
        progress: (share) => {
          working.share = share;
          if (performance.now() - working.toldAt > 200) {
            working.toldAt = performance.now();
            this.#tell(row.id);
          }
        }
      });
      outcome = { state: 'done', error: null, write: write ?? (() => undefined) };
    } catch (error) {
      outcome = this.#unfinished(row, working.stop.signal.aborted ? 'cancelled' : 'failed', error);
    }
    // A server that stops leaves the row, so that it starts again.
    if (!this.closed) this.#end(row, outcome);
  }

  #unfinished(row: TaskRow, state: 'failed' | 'cancelled', error: unknown): Outcome {
    const reason = sentence(error);
    if (state === 'failed') this.#log.error({ task: row.id, kind: row.kind, subject: row.subject, reason }, 'task failed');
    return { state, error: reason, write: () => this.#kinds.get(row.kind)?.unfinished?.(row.subject, state, error) };
  }

  /** Writes the end of a task down; on a disk that is full now, as soon as there is room. */
  #end(row: TaskRow, outcome: Outcome): void {
    try {
      this.#db.transaction(() => {
        outcome.write();
        this.#db
          .prepare('UPDATE task SET state = ?, error = ?, ended_at = ? WHERE id = ?')
          .run(outcome.state, outcome.error, Date.now(), row.id);
      })();
    } catch (error) {
      this.#log.error({ task: row.id, error: sentence(error) }, 'the end of a task could not be written down');
      if (mayPass(error)) this.#later(() => this.#end(row, outcome));
      // What cannot be written down has failed; where even that cannot be, the task alone says so.
      else if (outcome.state === 'done') this.#end(row, this.#unfinished(row, 'failed', error));
      else this.#end(row, { ...outcome, write: () => undefined });
      return;
    }
    this.#working.delete(row.id);
    this.#tell(row.id);
    this.#kinds.get(row.kind)?.told?.(row.subject);
    this.#waiters.get(row.id)?.forEach((tell) => tell());
    this.#waiters.delete(row.id);
    this.#next();
  }

  #later(what: () => void): void {
    const timer = setTimeout(() => {
      this.#timers.delete(timer);
      what();
    }, WRITE_AGAIN_MS);
    this.#timers.add(timer);
  }

  #progress(row: TaskRow): TaskProgress {
    const working = this.#working.get(row.id);
    const share = row.state === 'done' ? 1 : (working?.share ?? 0);
    const seconds = working ? (performance.now() - working.startedAt) / 1000 : 0;
    return {
      id: row.id,
      kind: row.kind,
      subject: row.subject,
      state: row.state,
      error: row.error,
      share,
      secondsLeft: working && share > 0.02 ? (seconds * (1 - share)) / share : null
    };
  }

  #tell(id: number): void {
    const row = this.get(id);
    if (row) this.#events.send({ kind: 'task', task: this.#progress(row) });
  }
}
