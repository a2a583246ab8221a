import { randomBytes } from 'node:crypto';
import type { Registration } from '$core/cutting/registration';
import { shownCode } from '$core/marks/print-code';
import type { ListPage, ListQuery } from '$lib/listing';
import { DEFAULT_KNIVES, KnifeChoice } from '$core/media/knife';
import type { Machines } from '../machines/machines';
import type { MediaCards } from '../media/cards';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { pageOf } from '../platform/listing';
import { Problem } from '../platform/problem';
import type { Runs } from '../production/run-store';
import type { CutClosed, CutPlan, CutRow, CutTask } from './cut';
import { partOf } from './cut-rules';
import { CUT_LIST, type CutListLine, type CutListRow } from './cut-list';

interface Needs {
  db: Db;
  events: Events;
  machines: Machines;
  media: MediaCards;
  runs: Runs;
}

/** Cut tasks as they are kept: one for each print that is to be cut. */
export class Cuts {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
    // Lines of runs that were deleted: no print is cut by them any more.
    needs.db.exec(
      `DELETE FROM print_code WHERE code NOT IN (SELECT print_code FROM cut_task WHERE print_code IS NOT NULL)
         AND code NOT IN (SELECT code FROM cut_task)`
    );
    needs.events.on('print done', ({ printId, runId, partMm }) => this.#add(printId, runId, partMm));
  }

  /** A print that is to be cut goes to the cutter, under the code that it carries: which of its prints it is stands behind it. */
  #add(printId: number, runId: number, partMm?: number): void {
    const { db, events, runs } = this.#needs;
    const { plan, cuts, code, inOrder } = runs.frozen(runId);
    const { widthMm, lengthMm, marks } = plan;
    const kept: CutPlan = { widthMm, lengthMm, marks, ...(code && { codes: code.boxes }), cuts, inOrder };
    if (partMm === undefined ? cuts.length === 0 : partOf(kept, partMm, partMm).cuts.length === 0) return;
    const put = db.prepare(
      `INSERT INTO cut_task (code, print_code, print_id, state, knife, added_at, part_mm) VALUES (?, ?, ?, 'waiting', ?, ?, ?)
       ON CONFLICT (code) DO NOTHING`
    );
    const knife = JSON.stringify(this.knivesFor(runId));
    const keep = (as: string) =>
      db
        .prepare(
          `INSERT INTO print_code (code, run_id, plan, made_at, width_mm, length_mm) VALUES (?, ?, ?, ?, ?, ?)
           ON CONFLICT (code) DO NOTHING`
        )
        .run(as, runId, JSON.stringify(kept), Date.now(), widthMm, lengthMm);
    if (code) {
      keep(code.text);
      const before =
        db.prepare<[string], number>('SELECT count(*) FROM cut_task WHERE print_code = ?').pluck().get(code.text) ?? 0;
      put.run(`${shownCode(code.text)}/${before + 1}`, code.text, printId, knife, Date.now(), partMm ?? null);
    } else {
      // Too narrow for a code: it is asked for by this number.
      let own: string;
      do own = `CUT-${randomBytes(3).toString('hex').toUpperCase()}`;
      while (put.run(own, null, printId, knife, Date.now(), partMm ?? null).changes === 0);
      db.prepare('DELETE FROM print_code WHERE code = ?').run(own);
      keep(own);
    }
    events.changed('cuts');
  }

  /** Cut tasks as a list asks for them. */
  list(query: ListQuery, from: number): ListPage<CutListLine> {
    const page = pageOf<CutListRow>(this.#needs.db, CUT_LIST, query, from);
    return {
      ...page,
      rows: page.rows.map((row) => ({ ...row, pictures: JSON.parse(row.pictures) as CutListLine['pictures'] }))
    };
  }

  /** The cut tasks of a run's prints, the newest first. */
  ofRun(runId: number): CutTask[] {
    return this.#needs.db
      .prepare<[number], CutRow>(
        'SELECT k.* FROM cut_task k JOIN print p ON p.id = k.print_id WHERE p.run_id = ? ORDER BY k.id DESC'
      )
      .all(runId)
      .map((row) => this.#toTask(row));
  }

  get(id: number): CutTask {
    return this.#toTask(this.row(id));
  }

  /** What is cut of a print: what its plates were made with, though its run was RIPped otherwise since. */
  plan(id: number): CutPlan {
    const { print_code: printed, code, print_id: printId, part_mm: partMm } = this.row(id);
    const kept = this.#needs.db
      .prepare<[string], string>('SELECT plan FROM print_code WHERE code = ?')
      .pluck()
      .get(printed ?? code);
    // Prints from before there were codes have none.
    if (kept !== undefined) {
      const whole = JSON.parse(kept) as CutPlan;
      if (partMm === null) return whole;
      const length = this.#needs.db.prepare<[number], number>('SELECT printed_mm FROM print WHERE id = ?').pluck().get(printId)!;
      return partOf(whole, partMm, length);
    }
    const { plan, cuts, inOrder } = this.#needs.runs.frozen(this.get(id).runId);
    return { widthMm: plan.widthMm, lengthMm: plan.lengthMm, marks: plan.marks, cuts, inOrder };
  }

  /**
   * Where prints broke off that look like this one as far as they go, mm along the run; without those that are cut so far.
   *
   * @throws Problem where there is no such task
   */
  brokenOff(id: number): number[] {
    const { print_id: printId } = this.row(id);
    return this.#needs.db
      .prepare<[number, number], number>(
        `SELECT p.printed_mm FROM print p JOIN print q ON q.id = ? AND q.run_id = p.run_id AND (p.plates IS q.plates OR p.plates IS NULL)
         WHERE p.id != ? AND p.state IN ('failed', 'cancelled') AND p.from_mm = 0 AND p.printed_mm > 0 AND p.kept_mm IS NULL`
      )
      .pluck()
      .all(printId, printId);
  }

  /** What a run's media is cut with on a cutter, the first one where it is not said. */
  knivesFor(runId: number, machineId?: number): KnifeChoice {
    const { machines, media } = this.#needs;
    const cutter = machineId ?? machines.list().find(({ kind }) => kind === 'cutter')?.id;
    const known = cutter === undefined ? undefined : media.knives(this.#mediaOf(runId), machines.modelOf(cutter));
    return known ?? DEFAULT_KNIVES;
  }

  #mediaOf(runId: number): number {
    return this.#needs.db
      .prepare<[number], number>('SELECT c.media_id FROM run r JOIN condition c ON c.id = r.condition_id WHERE r.id = ?')
      .pluck()
      .get(runId)!;
  }

  row(id: number): CutRow {
    const row = this.#needs.db.prepare<[number], CutRow>('SELECT * FROM cut_task WHERE id = ?').get(id);
    if (!row) throw new Problem(404, 'There is no such cut task.');
    return row;
  }

  /** Those that the cutter has been told to cut, and has not told the end of. */
  cutting(): CutRow[] {
    return this.#needs.db.prepare<[], CutRow>("SELECT * FROM cut_task WHERE state = 'cutting'").all();
  }

  /**
   * A cutter that asks has it, before anything is cut: of two at once, one.
   *
   * @returns whether it has
   */
  claimAsked(id: number, { machineId, sheet, fit }: { machineId: number; sheet: string; fit: Registration }): boolean {
    const { db, events, machines } = this.#needs;
    const { runId } = this.get(id);
    const { reachMm } = machines.abilities(machineId);
    const changes = db.transaction(() => {
      const { changes } = db
        .prepare(
          `UPDATE cut_task SET lines_cut = CASE WHEN state = 'cut' AND closed IS NULL THEN 0 ELSE lines_cut END, state = 'cutting',
             registration = ?, sheet = ?, machine_id = ?, asked = 1, allowed = 0, closed = NULL, reason = NULL
           WHERE id = ? AND (state = 'waiting' OR state = 'cut' AND allowed = 1)`
        )
        .run(JSON.stringify(fit), sheet, machineId, id);
      // What is cut in part goes on in its order, with its knives.
      db.prepare('UPDATE cut_task SET knife = ?, reach_mm = ? WHERE id = ? AND ? > 0 AND lines_cut = 0').run(
        JSON.stringify(this.knivesFor(runId, machineId)),
        reachMm,
        id,
        changes
      );
      return changes;
    })();
    if (changes > 0) events.changed('cuts', [id]);
    return changes > 0;
  }

  /** What a cutter that asked is led by, kept before it is answered. */
  keepLed(id: number, hpglHash: string, offset: number): void {
    this.#needs.db.prepare('UPDATE cut_task SET hpgl_hash = ?, line_offset = ? WHERE id = ?').run(hpglHash, offset, id);
  }

  /** Why a cutter did not cut a print: it says so where it waits. What was allowed was allowed once. */
  refusedBy(id: number, reason: string): void {
    const { db, events } = this.#needs;
    db.prepare("UPDATE cut_task SET allowed = 0, reason = CASE state WHEN 'waiting' THEN ? ELSE reason END WHERE id = ?").run(
      reason,
      id
    );
    events.changed('cuts', [id]);
  }

  /** A person says that a print is to be cut, or once more, though something speaks against it: the next time that it is asked for. */
  allow(id: number): void {
    const { db, events } = this.#needs;
    const { state, code } = this.row(id);
    if (state === 'cutting') throw new Problem(409, `${code} is being cut.`);
    db.prepare('UPDATE cut_task SET reason = NULL, allowed = 1 WHERE id = ?').run(id);
    events.changed('cuts', [id]);
  }

  /** @throws Problem while it is cut: what is cut already is counted by the strokes of that knife */
  setKnife(id: number, knife: KnifeChoice): void {
    const { db, events, machines, media } = this.#needs;
    const { state, code, machine_id: machineId } = this.row(id);
    if (state === 'cutting') throw new Problem(409, `${code} is being cut. Change its knives when it is done.`);
    const cutter = machineId ?? machines.list().find(({ kind }) => kind === 'cutter')?.id;
    db.transaction(() => {
      db.prepare('UPDATE cut_task SET knife = ? WHERE id = ?').run(JSON.stringify(knife), id);
      // The next print on this media is cut so too.
      if (cutter !== undefined) media.keepKnives(this.#mediaOf(this.get(id).runId), machines.modelOf(cutter), knife);
    })();
    events.changed('cuts', [id]);
  }

  /**
   * One sheet lies in the cutter at a time. What was cut to its end is cut from its start again.
   *
   * @returns whether it does: not where another cutter has taken it meanwhile, or a person has put it down
   */
  loaded(id: number, sheet: string, machineId: number): boolean {
    const { db, events, machines } = this.#needs;
    const { runId } = this.get(id);
    const { reachMm } = machines.abilities(machineId);
    const isFree = db.transaction(() => {
      this.emptied(machineId);
      const { state, closed } = this.row(id);
      if (state === 'cutting' || closed !== null) return false;
      // What is cut in part goes on in its order, with its knives.
      db.prepare("UPDATE cut_task SET lines_cut = 0 WHERE id = ? AND state = 'cut'").run(id);
      db.prepare('UPDATE cut_task SET knife = ?, reach_mm = ? WHERE id = ? AND lines_cut = 0').run(
        JSON.stringify(this.knivesFor(runId, machineId)),
        reachMm,
        id
      );
      db.prepare(
        `UPDATE cut_task SET state = 'loaded', registration = NULL, sheet = ?, machine_id = ?, asked = 0, reason = NULL WHERE id = ?`
      ).run(sheet, machineId, id);
      return true;
    })();
    events.changed('cuts');
    return isFree;
  }

  /**
   * A person says that prints need no cutter here any more: the roll, the list and their dockets wait for them no longer. What
   * is being cut, or is cut, is left alone.
   *
   * @returns the numbers of those that waited
   */
  close(ids: readonly number[], how: CutClosed): number[] {
    const closed = this.#needs.db
      .prepare<[CutClosed, number, string], number>(
        `UPDATE cut_task SET state = 'cut', closed = ?, cut_at = ?, registration = NULL, sheet = NULL, allowed = 0, reason = NULL
         WHERE id IN (SELECT value FROM json_each(?)) AND state IN ('waiting', 'loaded', 'registered') RETURNING id`
      )
      .pluck()
      .all(how, Date.now(), JSON.stringify(ids));
    this.#tell(closed);
    return closed;
  }

  /** They wait again, with what was cut of them before. @returns the numbers of those that a person had said needed no cutter */
  putBack(ids: readonly number[]): number[] {
    const back = this.#needs.db
      .prepare<[string], number>(
        `UPDATE cut_task SET state = 'waiting', closed = NULL, cut_at = NULL, allowed = 0
         WHERE id IN (SELECT value FROM json_each(?)) AND closed IS NOT NULL RETURNING id`
      )
      .pluck()
      .all(JSON.stringify(ids));
    this.#tell(back);
    return back;
  }

  #tell(ids: readonly number[]): void {
    if (ids.length > 0) this.#needs.events.changed('cuts', ids);
  }

  /** What lay in a cutter does not lie there any more. */
  emptied(machineId: number): void {
    this.#needs.db
      .prepare(
        `UPDATE cut_task SET state = 'waiting', registration = NULL, sheet = NULL
         WHERE state IN ('loaded', 'registered') AND (machine_id = ? OR machine_id IS NULL)`
      )
      .run(machineId);
  }

  /**
   * @param sheet in which the marks were seen: laid in anew it lies otherwise
   * @returns whether it lies there still
   */
  registered(id: number, fit: Registration, sheet: string): boolean {
    const { db, events } = this.#needs;
    const { changes } = db
      .prepare(
        "UPDATE cut_task SET state = 'registered', registration = ? WHERE id = ? AND sheet = ? AND state IN ('loaded', 'registered')"
      )
      .run(JSON.stringify(fit), id, sheet);
    if (changes > 0) events.changed('cuts', [id]);
    return changes > 0;
  }

  /** A sheet is not where it was: it has to be loaded again. One that was laid in anew meanwhile is another sheet. */
  unloaded(id: number, sheet: string | null, reason: string): void {
    const { db, events } = this.#needs;
    db.prepare(
      "UPDATE cut_task SET state = 'waiting', registration = NULL, sheet = NULL, reason = ? WHERE id = ? AND sheet IS ? AND state != 'cut'"
    ).run(reason, id, sheet);
    events.changed('cuts', [id]);
  }

  /**
   * Claims a cut before anything is sent: of two at once, one has it.
   *
   * @param sheet that lies in the cutter, and whose marks were found
   * @param from how many of its lines are cut already
   * @param offset what the cutter's own count is above that
   * @returns whether it is claimed
   */
  claim(id: number, what: { sheet: string; knife: KnifeChoice; hpglHash: string; from: number; offset: number }): boolean {
    const { db, events } = this.#needs;
    const { changes } = db
      .prepare(
        `UPDATE cut_task SET state = 'cutting', knife = ?, hpgl_hash = ?, lines_cut = ?, line_offset = ?, reason = NULL
         WHERE id = ? AND sheet = ? AND state = 'registered'`
      )
      .run(JSON.stringify(what.knife), what.hpglHash, what.from, what.offset, id, what.sheet);
    if (changes > 0) events.changed('cuts', [id]);
    return changes > 0;
  }

  /** How far a cut is, and what is to be told of it. */
  progress(id: number, linesCut: number, reason: string | null): void {
    const { db, events } = this.#needs;
    const { changes } = db
      .prepare(
        `UPDATE cut_task SET lines_cut = ?, reason = ? WHERE id = ? AND state = 'cutting' AND (lines_cut != ? OR reason IS NOT ?)`
      )
      .run(linesCut, reason, id, linesCut, reason);
    if (changes > 0) events.changed('cuts', [id]);
  }

  /** It is cut, or can go on. */
  ended(id: number, state: 'cut' | 'registered' | 'waiting', linesCut: number, reason: string | null): void {
    const { db, events } = this.#needs;
    db.prepare("UPDATE cut_task SET state = ?, lines_cut = ?, reason = ?, cut_at = ? WHERE id = ? AND state = 'cutting'").run(
      state,
      linesCut,
      reason,
      state === 'cut' ? Date.now() : null,
      id
    );
    events.changed('cuts', [id]);
  }

  #toTask(row: CutRow): CutTask {
    const { db } = this.#needs;
    const runId = db.prepare<[number], number>('SELECT run_id FROM print WHERE id = ?').pluck().get(row.print_id) ?? 0;
    const names = db
      .prepare<[number], string>(
        'SELECT d.name FROM run_docket r JOIN docket d ON d.id = r.docket_id WHERE r.run_id = ? ORDER BY r.position'
      )
      .pluck()
      .all(runId);
    return {
      id: row.id,
      code: row.code,
      state: row.state,
      closed: row.closed,
      reason: row.reason,
      printId: row.print_id,
      runId,
      names,
      knife: KnifeChoice.parse(JSON.parse(row.knife)),
      // One from before stretches has none.
      registration: row.registration
        ? {
            middle: 0,
            half: 1,
            rows: [],
            ...(JSON.parse(row.registration) as Pick<Registration, 'map' | 'worst' | 'rms' | 'matched'>)
          }
        : null,
      linesCut: row.lines_cut,
      machineId: row.machine_id,
      onRoll: row.asked === 1,
      addedAt: row.added_at,
      cutAt: row.cut_at
    };
  }
}
