import { randomUUID } from 'node:crypto';
import type { PlacedCopy } from '$core/layout/placement';
import { askedFor } from '$lib/came-out';
import type { Machines } from '../machines/machines';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import type { Settings } from '../platform/settings';
import type { KeptPlacement, Runs } from '../production/run-store';
import type { Print, PrintEnd, PrintRow, RecordPrinted } from './print';
import type { CameInPart } from './came-in-part';
import { keptOf, madeGood, usageOf, type Usage } from './usage';

interface Needs {
  db: Db;
  events: Events;
  settings: Settings;
  machines: Machines;
  runs: Runs;
}

const recordKey = (piece: string, record: number): string => `${piece} ${record}`;

/** Prints as they are kept: one row for each sending of a run to a machine. */
export class Prints {
  readonly #needs: Needs;
  readonly #places = new WeakMap<KeptPlacement, Map<string, PlacedCopy[]>>();

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  list(runId?: number): Print[] {
    const { db } = this.#needs;
    const rows =
      runId === undefined
        ? db.prepare<[], PrintRow>('SELECT * FROM print ORDER BY id DESC').all()
        : db.prepare<[number], PrintRow>('SELECT * FROM print WHERE run_id = ? ORDER BY id DESC').all(runId);
    return rows.map((row) => this.#toPrint(row));
  }

  get(id: number): Print {
    return this.#toPrint(this.row(id));
  }

  row(id: number): PrintRow {
    const row = this.#needs.db.prepare<[number], PrintRow>('SELECT * FROM print WHERE id = ?').get(id);
    if (!row) throw new Problem(404, 'There is no such print.');
    return row;
  }

  /** Those that a screen asked for at once. */
  ofRequest(request: string): Print[] {
    return this.#needs.db
      .prepare<[string], PrintRow>('SELECT * FROM print WHERE request = ? ORDER BY id')
      .all(request)
      .map((row) => this.#toPrint(row));
  }

  /** Those that went on with one. */
  restsOf(id: number): Print[] {
    return this.#needs.db
      .prepare<[number], PrintRow>('SELECT * FROM print WHERE rest_of = ? ORDER BY id')
      .all(id)
      .map((row) => this.#toPrint(row));
  }

  /** Whether a print is of the plates that its run has now; of an older one it is not known, and taken for so. */
  isOfPlates({ id, runId }: Print): boolean {
    const { plates } = this.row(id);
    return plates === null || plates === this.#needs.runs.platesName(runId);
  }

  /** Those that go on, or whose end their machine has not told yet. */
  unsettled(): PrintRow[] {
    return this.#needs.db.prepare<[], PrintRow>('SELECT * FROM print WHERE ended_at IS NULL OR given_up = 1 ORDER BY id').all();
  }

  busyMachines(): Set<number> {
    return new Set(
      this.#needs.db.prepare<[], number>('SELECT DISTINCT machine_id FROM print WHERE ended_at IS NULL').pluck().all()
    );
  }

  /** The batches of film that anything of some dockets was printed from, as far as they are known. */
  batchesOf(docketIds: readonly number[]): string[] {
    return this.#needs.db
      .prepare<[string], string>(
        `SELECT DISTINCT p.batch FROM json_each(?) AS d JOIN run_docket e ON e.docket_id = d.value JOIN print p ON p.run_id = e.run_id
         WHERE p.batch IS NOT NULL AND (p.ended_at IS NULL OR p.printed_mm > 0) ORDER BY p.batch`
      )
      .pluck()
      .all(JSON.stringify(docketIds));
  }

  /** The prints that a record of a docket came out in, the newest first: whole ones, and what came out before one was stopped. */
  ofRecord(docketId: number, record: number): RecordPrinted[] {
    const { db, runs } = this.#needs;
    type Row = RecordPrinted & Pick<PrintRow, 'state' | 'from_mm' | 'printed_mm'>;
    const rows = db
      .prepare<[number], Row>(
        `SELECT p.run_id AS runId, coalesce(m.name, '') AS machine, p.ended_at AS endedAt, p.state, p.from_mm, p.printed_mm
         FROM run_docket e JOIN print p ON p.run_id = e.run_id LEFT JOIN machine m ON m.id = p.machine_id
         WHERE e.docket_id = ? AND p.ended_at IS NOT NULL ORDER BY p.ended_at DESC`
      )
      .all(docketId);
    return rows.flatMap(({ state, from_mm: from, printed_mm: printed, ...told }) => {
      const lain = this.#where(runs.ripPlacement(told.runId)).get(recordKey(String(docketId), record)) ?? [];
      const came = lain.some(({ y, height }) => y >= from && (state === 'done' || y + height <= from + printed));
      return came ? [told] : [];
    });
  }

  /** By docket and record where copies lie along a run; there are thousands, and people step from one to the next. */
  #where(placement: KeptPlacement | undefined): Map<string, PlacedCopy[]> {
    const known = placement && this.#places.get(placement);
    if (known) return known;
    const places = new Map<string, PlacedCopy[]>();
    for (const copy of placement?.parts.flatMap(({ copies }) => copies) ?? []) {
      if (copy.record === undefined) continue;
      const key = recordKey(copy.id, copy.record);
      places.set(key, [...(places.get(key) ?? []), copy]);
    }
    if (placement) this.#places.set(placement, places);
    return places;
  }

  /** Writes prints down before their machine hears of them, each with the key that the machine will know it by. */
  add(
    request: string,
    what: { runId: number; machineId: number; lengthMm: number; fromMm: number; restOf: number | null; batch?: string | null },
    times: number
  ): number[] {
    const { db } = this.#needs;
    const put = db.prepare(
      `INSERT INTO print (run_id, machine_id, key, request, state, length_mm, from_mm, rest_of, batch, plates, started_at)
       VALUES (?, ?, ?, ?, 'sending', ?, ?, ?, ?, (SELECT plates_name FROM run WHERE id = ?), ?)`
    );
    const { runId, machineId, lengthMm, fromMm, restOf, batch = null } = what;
    return db.transaction(() => {
      db.prepare("UPDATE run SET state = 'printing' WHERE id = ?").run(runId);
      return Array.from({ length: times }, () =>
        Number(
          put.run(runId, machineId, randomUUID(), request, lengthMm, fromMm, restOf, batch, runId, Date.now()).lastInsertRowid
        )
      );
    })();
  }

  setJob(id: number, job: number): void {
    this.#needs.db.prepare('UPDATE print SET job = ? WHERE id = ?').run(job, id);
  }

  /** @returns whether anything is new */
  progress(
    id: number,
    state: 'sending' | 'printing' | 'stopped',
    reason: string | null,
    printedMm: number,
    inkMl: number[]
  ): boolean {
    const { changes } = this.#needs.db
      .prepare(
        `UPDATE print SET state = ?, reason = ?, printed_mm = ?, ink_ml = ?
         WHERE id = ? AND ended_at IS NULL AND (state, coalesce(reason, ''), printed_mm) IS NOT (?, ?, ?)`
      )
      .run(state, reason, printedMm, JSON.stringify(inkMl), id, state, reason ?? '', printedMm);
    return changes > 0;
  }

  askCancelled(id: number): void {
    this.#needs.db.prepare('UPDATE print SET cancelled_at = ? WHERE id = ? AND ended_at IS NULL').run(Date.now(), id);
  }

  /** Ended by a person without the machine's word, which is still waited for. */
  giveUp(id: number, reason: string): void {
    const { printed_mm: printedMm, ink_ml: inkMl, started_at: startedAt } = this.row(id);
    const seconds = Math.max(0, Date.now() - startedAt) / 1000;
    this.#write(id, { state: 'failed', reason, printedMm, inkMl: JSON.parse(inkMl) as number[], seconds }, true);
  }

  /** What came out of one that broke off is of use, as far as that is whole. */
  keep({ id }: Print, part: CameInPart): void {
    const { usage } = this.row(id);
    const now = usage && JSON.stringify(keptOf(this.#needs, JSON.parse(usage) as Usage, this.get(id), part));
    this.#needs.db.prepare('UPDATE print SET kept_mm = ?, usage = ? WHERE id = ?').run(part.toMm, now, id);
  }

  /** Writes down how a print ended, what it took, what is to be cut of it, and how far its run is now: once, and all of it. */
  end(id: number, end: PrintEnd): void {
    const row = this.row(id);
    if (row.ended_at !== null && row.given_up === 0) return;
    this.#write(id, end, false);
  }

  #write(id: number, end: PrintEnd, givenUp: boolean): void {
    const { db, events, runs } = this.#needs;
    const { run_id: runId } = this.row(id);
    db.transaction(() => {
      db.prepare(
        `UPDATE print SET state = ?, reason = ?, printed_mm = ?, ink_ml = ?, given_up = ?,
           ended_at = coalesce(ended_at, max(started_at, ?)) WHERE id = ?`
      ).run(end.state, end.reason, end.printedMm, JSON.stringify(end.inkMl), givenUp ? 1 : 0, Date.now(), id);
      const usage = usageOf(this.#needs, this.get(id), end);
      const keep = db.prepare('UPDATE print SET usage = ? WHERE id = ?');
      keep.run(JSON.stringify(usage), id);
      if (end.state === 'done')
        for (const { print, usage, toMm } of this.#goneOn(id))
          keep.run(JSON.stringify(madeGood(this.#needs, usage, print, toMm)), print.id);
      if (end.state === 'done') events.tell('print done', { printId: id, runId });
      this.#settleRun(runId, end.state === 'done');
    })();
    events.changed('runs', [runId]);
    if (runs.chartOf(runId) !== null) events.changed('conditions');
  }

  /** The prints that one went on with, each with where it was gone on from. */
  #goneOn(id: number): { print: Print; usage: Usage; toMm: number }[] {
    const { restOf, fromMm: toMm } = this.get(id);
    if (restOf === null) return [];
    const { usage } = this.row(restOf);
    return [...(usage ? [{ print: this.get(restOf), usage: JSON.parse(usage) as Usage, toMm }] : []), ...this.#goneOn(restOf)];
  }

  /** A run is printed when it came out as often as it is to, with all that was asked for at once; what is left waits for a person. */
  #settleRun(runId: number, well: boolean): void {
    const { db, runs } = this.#needs;
    const requests = askedFor(this.list(runId));
    if (requests.some(({ open }) => open > 0)) return;
    const { came, times } = runs.row(runId);
    const printed = came >= times && requests.some(({ asked, done }) => done === asked) ? 1 : 0;
    db.prepare(
      `UPDATE run SET state = ?, released_at = CASE WHEN ? THEN released_at END, by_hand = max(by_hand, NOT ?)
       WHERE id = ? AND (state = 'printing' OR (state = 'ripped' AND ?))`
    ).run(printed ? 'printed' : 'ripped', well ? 1 : 0, well ? 1 : 0, runId, printed);
  }

  #toPrint(row: PrintRow): Print {
    return {
      id: row.id,
      runId: row.run_id,
      machineId: row.machine_id,
      machine:
        this.#needs.db.prepare<[number], string>('SELECT name FROM machine WHERE id = ?').pluck().get(row.machine_id) ?? '',
      request: row.request ?? String(row.id),
      state: row.state,
      reason: row.reason,
      lengthMm: row.length_mm,
      printedMm: row.printed_mm,
      fromMm: row.from_mm,
      restOf: row.rest_of,
      keptMm: row.kept_mm,
      inkMl: JSON.parse(row.ink_ml) as number[],
      givenUp: row.given_up === 1,
      startedAt: row.started_at,
      endedAt: row.ended_at
    };
  }
}
