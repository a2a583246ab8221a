import { JOB_STATE } from '$protocol/ipp';
import { Asked } from '$lib/network-printer';
import type { RunState } from '$lib/run-rule';
import type { Db } from '../../platform/db/open';
import type { ArrivalRow } from '../arrival-store';

/** What a program knows as its job. */
export interface NetworkJob {
  id: number;
  printerId: number;
  name: string;
  sender: string;
  copies: number;
  asked: Asked;
  arrivalId: number | null;
  /** As RFC 8011 counts them. */
  state: number;
  stateReason: string;
  /** For people. */
  message: string | null;
  bytes: number;
  madeAt: number;
  /** When its document had come. */
  cameAt: number | null;
  endedAt: number | null;
}

interface JobRow {
  id: number;
  printer_id: number;
  name: string;
  sender: string;
  copies: number;
  asked: string;
  arrival_id: number | null;
  ended_as: number | null;
  reason: string | null;
  made_at: number;
  ended_at: number | null;
}

/** How what was made of a document is. */
interface Made {
  arrival: Pick<ArrivalRow, 'state' | 'reason'>;
  dockets: readonly { runState: RunState | null; isReleased: boolean }[];
}

/** A job's state, with the keyword that RFC 8011 and PWG 5100.11 have for why. */
export interface JobStateNow {
  state: number;
  why: string;
}

/** How far a job is: from what came to what was printed of it. */
export function jobStateOf({ arrival, dockets }: Made): JobStateNow {
  switch (arrival.state) {
    case 'reading':
    case 'made':
    case 'laid out':
      return { state: JOB_STATE.processing, why: 'job-transforming' };
    case 'waiting':
      return { state: JOB_STATE.held, why: 'job-held-for-review' };
    case 'refused':
      return { state: JOB_STATE.aborted, why: 'document-format-error' };
    case 'undone':
      return { state: JOB_STATE.cancelled, why: 'job-canceled-by-operator' };
    case 'done':
      break;
  }
  if (dockets.length === 0) return { state: JOB_STATE.cancelled, why: 'job-canceled-by-operator' };
  if (dockets.every(({ runState }) => runState === 'printed'))
    return { state: JOB_STATE.completed, why: 'job-completed-successfully' };
  if (dockets.some(({ runState }) => runState === 'printing' || runState === 'printed'))
    return { state: JOB_STATE.processing, why: 'job-printing' };
  if (dockets.every(({ isReleased }) => isReleased)) return { state: JOB_STATE.processing, why: 'job-transforming' };
  // It lies with the operator, and whoever sent it need not wait for that.
  return { state: JOB_STATE.held, why: 'job-held-for-review' };
}

/** Of one printer, ended jobs that programs can still ask for. */
const MOST_ENDED = 500;

interface Needs {
  db: Db;
}

/** Jobs of the shop's own printers as they are kept. */
export class NetworkJobs {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  add(job: { printerId: number; name: string; sender: string; copies: number; asked: Asked }): NetworkJob {
    const { db } = this.#needs;
    db.prepare<[number, number]>(
      `DELETE FROM network_job WHERE id IN
       (SELECT id FROM network_job WHERE printer_id = ? AND ended_as IS NOT NULL ORDER BY id DESC LIMIT -1 OFFSET ?)`
    ).run(job.printerId, MOST_ENDED);
    const { lastInsertRowid } = db
      .prepare(
        'INSERT INTO network_job (printer_id, name, sender, copies, asked, made_at) VALUES (@printerId, @name, @sender, @copies, @asked, @now)'
      )
      .run({ ...job, asked: JSON.stringify(job.asked), now: Date.now() });
    return this.get(job.printerId, Number(lastInsertRowid))!;
  }

  /** Within the transaction that writes the arrival down. */
  came(id: number, arrivalId: number): void {
    this.#needs.db.prepare('UPDATE network_job SET arrival_id = ? WHERE id = ?').run(arrivalId, id);
  }

  end(id: number, state: number, reason: string): void {
    this.#needs.db
      .prepare('UPDATE network_job SET ended_as = ?, reason = ?, ended_at = ? WHERE id = ? AND ended_as IS NULL')
      .run(state, reason, Date.now(), id);
  }

  get(printerId: number, id: number): NetworkJob | undefined {
    const row = this.#needs.db
      .prepare<[number, number], JobRow>('SELECT * FROM network_job WHERE id = ? AND printer_id = ?')
      .get(id, printerId);
    return row && this.#toJob(row);
  }

  /** Those that have not ended in the order they came, or those that have with the newest first. */
  list(printerId: number, ended: boolean): NetworkJob[] {
    const rows = (which: string) =>
      this.#needs.db
        .prepare<[number], JobRow>(`SELECT * FROM network_job WHERE printer_id = ? AND ${which}`)
        .all(printerId)
        .map((row) => this.#toJob(row));
    // To look at one settles it.
    const open = rows('ended_as IS NULL ORDER BY id').filter(({ state }) => !hasEnded(state));
    return ended ? rows('ended_as IS NOT NULL ORDER BY id DESC') : open;
  }

  /** Jobs whose document never came. @param before made before this time */
  forgotten(printerId: number, before: number): number[] {
    return this.#needs.db
      .prepare<[number, number], number>(
        'SELECT id FROM network_job WHERE printer_id = ? AND arrival_id IS NULL AND ended_as IS NULL AND made_at < ?'
      )
      .pluck()
      .all(printerId, before);
  }

  /** How many have not ended. */
  open(printerId: number): number {
    return (
      this.#needs.db
        .prepare<[number], number>('SELECT count(*) FROM network_job WHERE printer_id = ? AND ended_as IS NULL')
        .pluck()
        .get(printerId) ?? 0
    );
  }

  /** Writes down what has ended, so that it stays so whatever becomes of its dockets. */
  settleAll(): void {
    const rows = this.#needs.db
      .prepare<[], JobRow>('SELECT * FROM network_job WHERE ended_as IS NULL AND arrival_id IS NOT NULL')
      .all();
    for (const row of rows) this.#toJob(row);
  }

  #toJob(row: JobRow): NetworkJob {
    const { id, name, sender, copies, made_at: madeAt } = row;
    const arrival = row.arrival_id === null ? undefined : this.#arrival(row.arrival_id);
    const now = this.#now(row, arrival);
    if (row.ended_as === null && hasEnded(now.state)) {
      this.end(id, now.state, now.why);
      row.ended_at = Date.now();
    }
    return {
      ...{ id, name, sender, copies, madeAt },
      printerId: row.printer_id,
      asked: Asked.parse(JSON.parse(row.asked)),
      arrivalId: row.arrival_id,
      state: now.state,
      stateReason: now.why,
      message: arrival?.reason ?? null,
      bytes: arrival?.bytes ?? 0,
      cameAt: arrival?.came_at ?? null,
      endedAt: row.ended_at
    };
  }

  #now(row: JobRow, arrival: ArrivalRow | undefined): JobStateNow {
    if (row.ended_as !== null) return { state: row.ended_as, why: row.reason ?? 'none' };
    if (!arrival) return { state: JOB_STATE.pending, why: 'job-incoming' };
    const dockets = this.#needs.db
      .prepare<[string], { runState: RunState | null; isReleased: number }>(
        `SELECT r.state AS runState, r.released_at IS NOT NULL AS isReleased FROM docket d LEFT JOIN run r ON r.id = d.run_id
         WHERE d.id IN (SELECT value FROM json_each(?))`
      )
      .all(arrival.dockets)
      .map(({ runState, isReleased }) => ({ runState, isReleased: isReleased === 1 }));
    return jobStateOf({ arrival, dockets });
  }

  #arrival(id: number): ArrivalRow | undefined {
    return this.#needs.db.prepare<[number], ArrivalRow>('SELECT * FROM arrival WHERE id = ?').get(id);
  }
}

export const hasEnded = (state: number): boolean => state >= JOB_STATE.cancelled;
