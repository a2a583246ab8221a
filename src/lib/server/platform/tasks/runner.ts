import type { Logger } from 'pino';
import type { Db } from '../db/open';
import type { Events, TaskProgress } from '../events';
import { Problem, sentence } from '../problem';

export interface TaskRow {
  id: number;
  kind: 'artwork' | 'rip' | 'start' | 'build';
  subject: string;
  state: 'waiting' | 'working' | 'done' | 'failed' | 'cancelled';
  error: string | null;
  added_at: number;
  ended_at: number | null;
}

export interface TaskContext {
  signal: AbortSignal;
  progress: (share: number) => void;
}

type Handler = (subject: string, context: TaskContext) => Promise<void>;

interface Working {
  kind: TaskRow['kind'];
  stop: AbortController;
  share: number;
  startedAt: number;
  toldAt: number;
}

/** Long work that outlives the page and the server: rows in SQLite, carried out a few at a time of each kind. */
export class TaskRunner {
  readonly #db: Db;
  readonly #events: Events;
  readonly #log: Logger;
  readonly #handlers = new Map<string, { handle: Handler; most: number }>();
  readonly #working = new Map<number, Working>();
  readonly #waiters = new Map<number, (() => void)[]>();
  /** The server stops: what is at work is broken off, and begins again at the next start. */
  closed = false;

  constructor(db: Db, events: Events, log: Logger) {
    this.#db = db;
    this.#events = events;
    this.#log = log;
  }

  /** @param most how many of the kind go on at once */
  register(kind: TaskRow['kind'], most: number, handle: Handler): void {
    this.#handlers.set(kind, { handle, most });
  }

  /** Begins again with what a stopped server left. */
  start(): void {
    this.#db.prepare("UPDATE task SET state = 'waiting' WHERE state = 'working'").run();
    this.#next();
  }

  add(kind: TaskRow['kind'], subject: string | number): TaskRow {
    const same = this.#db
      .prepare<[string, string], TaskRow>("SELECT * FROM task WHERE kind = ? AND subject = ? AND state IN ('waiting', 'working')")
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

  cancel(id: number): void {
    const working = this.#working.get(id);
    if (working) working.stop.abort(new Problem(409, 'It was cancelled.'));
    else this.#end(id, 'cancelled', null);
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

  /** Lets go of everything; tasks that were at work begin again at the next start. */
  close(): void {
    this.closed = true;
    for (const { stop } of this.#working.values()) stop.abort(new Problem(503, 'The server stops.'));
  }

  #next(): void {
    if (this.closed) return;
    const rows = this.#db.prepare<[], TaskRow>("SELECT * FROM task WHERE state = 'waiting' ORDER BY id").all();
    const busy = new Map<TaskRow['kind'], number>();
    for (const { kind } of this.#working.values()) busy.set(kind, (busy.get(kind) ?? 0) + 1);
    for (const row of rows) {
      const registered = this.#handlers.get(row.kind);
      const now = busy.get(row.kind) ?? 0;
      if (!registered || now >= registered.most) continue;
      busy.set(row.kind, now + 1);
      void this.#work(row, registered.handle);
    }
  }

  async #work(row: TaskRow, handle: Handler): Promise<void> {
    const working: Working = { kind: row.kind, stop: new AbortController(), share: 0, startedAt: Date.now(), toldAt: 0 };
    this.#working.set(row.id, working);
    this.#db.prepare("UPDATE task SET state = 'working' WHERE id = ?").run(row.id);
    this.#tell(row.id);
    let state: TaskRow['state'] = 'done';
    let reason: string | null = null;
    try {
      await handle(row.subject, {
        signal: working.stop.signal,
        progress: (share) => {
          working.share = share;
          if (Date.now() - working.toldAt > 200) {
            working.toldAt = Date.now();
            this.#tell(row.id);
          }
        }
      });
    } catch (error) {
      state = working.stop.signal.aborted ? 'cancelled' : 'failed';
      reason = sentence(error);
      if (state === 'failed') this.#log.error({ task: row.id, kind: row.kind, subject: row.subject, reason }, 'task failed');
    }
    this.#working.delete(row.id);
    // A server that stops leaves the row at work, so that it starts again.
    if (this.closed) return;
    this.#end(row.id, state, reason);
    this.#next();
  }

  #end(id: number, state: TaskRow['state'], reason: string | null): void {
    this.#db.prepare('UPDATE task SET state = ?, error = ?, ended_at = ? WHERE id = ?').run(state, reason, Date.now(), id);
    this.#tell(id);
    this.#waiters.get(id)?.forEach((tell) => tell());
    this.#waiters.delete(id);
  }

  #progress(row: TaskRow): TaskProgress {
    const working = this.#working.get(row.id);
    const share = row.state === 'done' ? 1 : (working?.share ?? 0);
    const seconds = working ? (Date.now() - working.startedAt) / 1000 : 0;
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
