import type { Pin as PlacedPin } from '$core/layout/placement';
import type { RunRule } from '$lib/run-rule';
import type { Conditions } from '../conditions/conditions';
import type { Dockets } from '../dockets/dockets';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import type { DocketParts } from './docket-parts';
import type { LaneChecks } from './lane-checks';
import type { PlateFiles } from './plate-files';
import type { Run, RunRow } from './run';
import { isWhole, partTimes, putPart, WHOLE } from './run-parts';
import { forOther, isForLane, mustBeOpen } from './run-rules';
import type { Runs } from './run-store';

export interface RunChange {
  rule?: RunRule | undefined;
  docketIds?: number[] | undefined;
  held?: number[] | undefined;
  pins?: PlacedPin[] | undefined;
}

interface Needs {
  checks: LaneChecks;
  conditions: Conditions;
  db: Db;
  dockets: Dockets;
  events: Events;
  parts: DocketParts;
  plateFiles: PlateFiles;
  runs: Runs;
}

/** What a person changes about a run. */
export class RunEditing {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  change(id: number, version: number, change: RunChange): Run {
    const { checks, conditions, db, events, parts, runs } = this.#needs;
    const run = runs.row(id);
    if (run.version !== version)
      throw new Problem(
        409,
        'This run was changed in another window meanwhile. The newer layout is shown now; make your change again.'
      );
    mustBeOpen(run);
    if (change.rule) checks.mustTakeJig(change.rule, conditions.get(run.condition_id));
    const before = new Map(runs.entries(id).map((entry) => [entry.docket_id, entry]));
    const stays = (docket: number, times: number) => {
      const entry = before.get(docket);
      return entry && { ...partTimes(entry, times), held: entry.held };
    };
    db.transaction(() => {
      db.prepare('UPDATE run SET rule = ?, pins = ?, version = version + 1 WHERE id = ?').run(
        change.rule ? JSON.stringify(change.rule) : run.rule,
        change.pins ? JSON.stringify(change.pins) : run.pins,
        id
      );
      if (change.docketIds) {
        const taken = parts.takenOut(id);
        const came = change.docketIds.filter((docket) => !before.has(docket));
        const comesAsPart = (docket: number) => !isWhole(taken.get(docket) ?? WHOLE);
        this.#mustComeIn(
          run,
          change.docketIds,
          came.filter((docket) => !comesAsPart(docket))
        );
        for (const docket of came.filter(comesAsPart)) parts.bringBack(id, docket, taken.get(docket)!);
        for (const entry of before.values()) if (!change.docketIds.includes(entry.docket_id)) parts.takeOut(id, run.times, entry);
        // Equal sheets are no longer equal where something comes in: it is not printed on all of them.
        const times = came.length > 0 ? run.times : 1;
        if (times > 1) db.prepare('UPDATE run SET times = 1 WHERE id = ?').run(id);
        db.prepare('DELETE FROM run_docket WHERE run_id = ?').run(id);
        // What was taken out comes back as it lay there.
        change.docketIds.forEach((docket, i) =>
          putPart(db, id, docket, i + 1, stays(docket, times) ?? { ...(taken.get(docket) ?? WHOLE), held: 0 })
        );
      }
      if (change.held) {
        db.prepare('UPDATE run_docket SET held = 0 WHERE run_id = ?').run(id);
        for (const docket of change.held)
          db.prepare('UPDATE run_docket SET held = 1 WHERE run_id = ? AND docket_id = ?').run(id, docket);
      }
    })();
    events.changed('runs', [id]);
    if (change.docketIds) events.changed('dockets', [...new Set([...before.keys(), ...change.docketIds])]);
    return runs.get(id);
  }

  /**
   * What came out of a run is all of it: what is left of its equal sheets lies in no run then, and tickets say so.
   *
   * @returns how many copies of which dockets that are
   */
  leave(id: number): { name: string; copies: number }[] {
    const { db, events, parts, runs } = this.#needs;
    const { state, dockets, came, times } = runs.get(id);
    if ((state !== 'ripped' && state !== 'laying out') || came === 0)
      throw new Problem(409, 'Nothing of this run came out that it could be left at.');
    const missing = () => dockets.map((docket) => parts.divided(docket.id)?.missing ?? 0);
    const before = missing();
    db.prepare("UPDATE run SET state = 'printed', times = ?, released_at = NULL, version = version + 1 WHERE id = ?").run(
      Math.min(times, came),
      id
    );
    events.changed('runs', [id]);
    events.changed('dockets', dockets.map((docket) => docket.id)); // prettier-ignore
    return missing().flatMap((now, i) => (now > before[i]! ? [{ name: dockets[i]!.name, copies: now - before[i]! }] : []));
  }

  async remove(id: number): Promise<void> {
    const { db, events, runs, plateFiles } = this.#needs;
    const run = runs.get(id);
    if (runs.chartOf(id) !== null) throw new Problem(409, 'This is a chart; it is kept with its condition.');
    const prints = db.prepare<[number], { n: number }>('SELECT count(*) AS n FROM print WHERE run_id = ?').get(id)?.n ?? 0;
    if (prints > 0) throw new Problem(409, `Run ${id} has been printed; it is kept as a record.`);
    mustBeOpen(run);
    const { plates_name: name } = runs.row(id);
    db.prepare('DELETE FROM run WHERE id = ?').run(id);
    if (name) await plateFiles.remove(name);
    events.changed('runs', [id]);
    events.changed(
      'dockets',
      run.dockets.map((docket) => docket.id)
    );
  }

  /**
   * @param whole those that come into the run with all of their copies
   * @throws Problem for a docket that is gone, is printed otherwise by now, or waits in another run: it would be printed twice
   */
  #mustComeIn(run: RunRow, all: readonly number[], whole: readonly number[]): void {
    const { checks, conditions, dockets } = this.#needs;
    const condition = conditions.get(run.condition_id);
    for (const docketId of whole) {
      const { name, choices, runId, runState } = dockets.get(docketId);
      const own = choices.conditionId === null ? undefined : conditions.get(choices.conditionId);
      if (!isForLane(own, condition)) throw new Problem(409, forOther(name, own, condition));
      if (runId !== null && runId !== run.id && runState !== 'printed')
        throw new Problem(409, `${name} lies in run ${runId} by now. Take it out of there first.`);
    }
    if (whole.length > 0 && run.lane_id !== null)
      checks.mustBePrintable(
        run.lane_id,
        all.map((docketId) => dockets.get(docketId))
      );
  }
}
