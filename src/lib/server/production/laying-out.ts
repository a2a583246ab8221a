import { inJig, jigOfRun, liesAlike, type InJig } from '$lib/in-jig';
import type { DocketEditing } from '../dockets/docket-editing';
import type { Docket, Dockets } from '../dockets/dockets';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import type { DocketParts } from './docket-parts';
import type { LaneChecks } from './lane-checks';
import type { Lanes } from './lanes';
import type { PlateFiles } from './plate-files';
import { ruleOf } from './run';
import { putPart, WHOLE, type RunPart } from './run-parts';
import { isMoreUrgent, mustBeOpen } from './run-rules';
import type { Runs } from './run-store';

/** Dockets that are laid out by one press. */
const MOST_AT_ONCE = 500;

/** Dockets that come into one run. */
interface Group {
  lane: number;
  jig: InJig | null;
  wall: Docket | null;
  dockets: Docket[];
}

interface Needs {
  checks: LaneChecks;
  db: Db;
  docketEditing: DocketEditing;
  dockets: Dockets;
  events: Events;
  lanes: Lanes;
  parts: DocketParts;
  plateFiles: PlateFiles;
  runs: Runs;
}

/** Whether a docket lies in a run that is not printed yet. */
const isLying = (docket: Docket): docket is Docket & { runId: number } => docket.runId !== null && docket.runState !== 'printed';

/** How dockets come into runs. */
export class LayingOut {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /**
   * Lays dockets out in their lanes. What lies in a run that is not printed yet stays there: it would be printed twice.
   *
   * @param alone in runs of their own, which no others come into
   * @returns the runs, those of dockets that stay where they are last
   */
  add(docketIds: readonly number[], laneId?: number, alone = false): number[] {
    const { checks, db, dockets, events, lanes } = this.#needs;
    const groups: Group[] = [];
    const laneOf = new Map<number | null, number>();
    const asked = docketIds.map((id) => dockets.get(id));
    const staying = asked.flatMap((docket) => (isLying(docket) ? [docket.runId] : []));
    const coming = asked.filter((docket) => !isLying(docket));
    for (const docket of coming) {
      const { wall, jig, conditionId } = docket.choices;
      const lane = laneId ?? laneOf.get(conditionId) ?? lanes.of(docket);
      laneOf.set(conditionId, lane);
      // A wall is a run of its own, so that its panels come out in order.
      const group = wall ? undefined : groups.find((one) => one.lane === lane && !one.wall && liesAlike(one.jig, jig));
      if (group) group.dockets.push(docket);
      else groups.push({ lane, jig, wall: wall ? docket : null, dockets: [docket] });
    }
    const changed = db.transaction(() =>
      groups.map(({ lane, jig, wall, dockets: list }) => {
        checks.mustLie(lane, list);
        const run = wall ? this.#wallRun(lane, wall) : alone ? this.#newRun(lane, jig) : this.#openRun(lane, jig);
        const ids = this.#needs.runs.entries(run).map((entry) => entry.docket_id);
        const all = ids.map((id) => dockets.get(id));
        checks.mustBePrintable(lane, [...all, ...list]);
        for (const docket of list) {
          if (ids.includes(docket.id)) continue;
          const before = all.findIndex((other) => isMoreUrgent(docket, other));
          all.splice(before < 0 ? all.length : before, 0, docket);
          putPart(db, run, docket.id, 0, { ...WHOLE, held: 0 });
        }
        all.forEach((docket, i) =>
          db.prepare('UPDATE run_docket SET position = ? WHERE run_id = ? AND docket_id = ?').run(i + 1, run, docket.id)
        );
        db.prepare('UPDATE run SET version = version + 1 WHERE id = ?').run(run);
        lanes.came(lane);
        return run;
      })
    )();
    events.changed('runs', changed);
    events.changed(
      'dockets',
      coming.map(({ id }) => id)
    );
    return [...new Set([...changed, ...staying])];
  }

  /** How many of dockets lie in runs that are not printed yet. */
  lying(docketIds: readonly number[]): number {
    return docketIds.filter((id) => isLying(this.#needs.dockets.get(id))).length;
  }

  /**
   * Sends dockets that wait and have a media to its lane, who came first first.
   *
   * @returns how many went, and how many still wait: more at once would keep the server too long
   */
  addWaiting(): { laidOut: number; waiting: number } {
    const ids = this.#needs.db
      .prepare<[], number>("SELECT id FROM docket WHERE stage = 'waiting' AND away = 0 AND condition_id IS NOT NULL ORDER BY id")
      .pluck()
      .all();
    // What its machine cannot print waits for a person.
    const now: number[] = [];
    for (const id of ids) {
      if (now.length === MOST_AT_ONCE) break;
      if (this.#needs.checks.isPrintable(this.#needs.dockets.get(id))) now.push(id);
    }
    if (now.length > 0) this.add(now);
    return { laidOut: now.length, waiting: ids.length - now.length };
  }

  /**
   * Takes dockets out of the open runs that they are in, and puts them into the one of another lane, in that lane's print
   * mode: all or none. What was held back is held back there.
   *
   * @returns the run that they are in now; the first where they cannot lie in one
   */
  move(docketIds: readonly number[], laneId: number): number {
    const { db, plateFiles } = this.#needs;
    const before = this.#runsOf(docketIds);
    const { runs, plates } = db.transaction(() => {
      const out = new Map(docketIds.map((id) => [id, this.#takeOut(id, laneId)]));
      const runs = this.add(docketIds, laneId);
      // Of a docket that is printed in part the rest alone is still to come.
      for (const [docketId, { rest, held }] of out) {
        const of = { docketId, runs: JSON.stringify(runs) };
        const inThem = 'WHERE docket_id = @docketId AND run_id IN (SELECT value FROM json_each(@runs))';
        if (rest)
          db.prepare(
            `UPDATE run_docket SET copies = @copies, first = @first, records = @records, pieces = @pieces, division = @division ${inThem}`
          ).run({ ...rest, ...of });
        if (held) db.prepare(`UPDATE run_docket SET held = 1 ${inThem}`).run(of);
      }
      return { runs, plates: this.#dropEmpty(before.filter((id) => !runs.includes(id))) };
    })();
    this.#needs.events.changed('runs', before);
    // One that stays goes with the next sweep.
    for (const name of plates) void plateFiles.remove(name).catch(() => undefined);
    return runs[0]!;
  }

  #runsOf(docketIds: readonly number[]): number[] {
    return this.#needs.db
      .prepare<[string], number>(
        'SELECT DISTINCT run_id FROM run_docket WHERE docket_id IN (SELECT value FROM json_each(?)) ORDER BY run_id'
      )
      .pluck()
      .all(JSON.stringify(docketIds));
  }

  /** A run that all of its dockets have left, and that was never printed, is none any more. @returns names of its plates */
  #dropEmpty(ids: readonly number[]): string[] {
    return this.#needs.db
      .prepare<[string], string | null>(
        `DELETE FROM run WHERE id IN (SELECT value FROM json_each(?)) AND state IN ('laying out', 'ripped')
           AND NOT EXISTS (SELECT 1 FROM run_docket e WHERE e.run_id = run.id)
           AND NOT EXISTS (SELECT 1 FROM print p WHERE p.run_id = run.id) RETURNING plates_name`
      )
      .pluck()
      .all(JSON.stringify(ids))
      .flatMap((name) => name ?? []);
  }

  /**
   * Makes a docket ready for a lane: out of the runs that wait with it, in that lane's print mode.
   *
   * @returns what of it is still to be printed, where that is not all of it, and whether it was held back
   */
  #takeOut(docketId: number, laneId: number): { rest: RunPart | undefined; held: boolean } {
    const { db, dockets, lanes, parts, runs, docketEditing } = this.#needs;
    const { condition } = lanes.get(laneId);
    const waiting = parts.of(docketId).filter(({ state }) => state !== 'printed');
    const rest = parts.waiting(docketId);
    for (const { runId } of waiting) {
      mustBeOpen(runs.row(runId));
      db.prepare('DELETE FROM run_docket WHERE run_id = ? AND docket_id = ?').run(runId, docketId);
      db.prepare('UPDATE run SET version = version + 1 WHERE id = ?').run(runId);
    }
    const { version, choices } = dockets.get(docketId);
    if (choices.conditionId !== condition.id)
      docketEditing.change(docketId, version, { choices: { ...choices, conditionId: condition.id } });
    return { rest, held: waiting.some(({ held }) => held === 1) };
  }

  /** Lays out what of a divided docket lies in no run, in a run of its own. @returns its number */
  addRest(docketId: number): number {
    const { checks, db, dockets, events, lanes, parts, runs } = this.#needs;
    const docket = dockets.get(docketId);
    const lane = lanes.of(docket);
    const { condition, rule } = lanes.get(lane);
    const rest = parts.rest(docket, condition);
    if (!rest) throw new Problem(409, `All copies of ${docket.name} lie in runs, or are printed.`);
    const { wall, jig } = docket.choices;
    checks.mustLie(lane, [docket]);
    checks.mustBePrintable(lane, [docket]);
    const made = db.transaction(() => {
      parts.forgetTakenOut(docketId);
      const made = wall ? runs.create(lane, condition.id, { ...rule, placing: 'rows' }) : this.#newRun(lane, jig);
      putPart(db, made, docketId, 1, { ...rest, held: 0 });
      return made;
    })();
    events.changed('runs', [made]);
    events.changed('dockets', [docketId]);
    return made;
  }

  /** The run of a wall: the one that it is laid out in already, or one of its own. */
  #wallRun(laneId: number, { runId, runState }: Docket): number {
    const { lanes, runs } = this.#needs;
    const isOpen = runState === 'laying out' || runState === 'ripped';
    if (runId !== null && isOpen && runs.row(runId).lane_id === laneId) return runId;
    const { condition, rule } = lanes.get(laneId);
    return runs.create(laneId, condition.id, { ...rule, placing: 'rows' });
  }

  /** The run of a lane that dockets still come into, on the sheet or in that jig, but none of a wall; a new one where there is none. */
  #openRun(laneId: number, jig: InJig | null): number {
    const { db } = this.#needs;
    const open = db
      .prepare<[number], { id: number; rule: string }>(
        `SELECT id, rule FROM run WHERE lane_id = ? AND released_at IS NULL AND times = 1 AND (state = 'laying out' OR (
           state = 'ripped' AND id NOT IN (SELECT run_id FROM run_docket WHERE copies IS NOT NULL)
         )) AND NOT EXISTS (
           SELECT 1 FROM run_docket e JOIN docket d ON d.id = e.docket_id
           WHERE e.run_id = run.id AND json_extract(d.choices, '$.wall') IS NOT NULL
         ) AND NOT EXISTS (SELECT 1 FROM print p WHERE p.run_id = run.id AND p.state = 'done') ORDER BY id DESC`
      )
      .all(laneId)
      .find(({ rule }) => liesAlike(jigOfRun(ruleOf(rule)), jig));
    return open?.id ?? this.#newRun(laneId, jig);
  }

  #newRun(laneId: number, jig: InJig | null): number {
    const { condition, rule } = this.#needs.lanes.get(laneId);
    return this.#needs.runs.create(laneId, condition.id, inJig(rule, jig));
  }
}
