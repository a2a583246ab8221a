import type { Pin as PlacedPin, PlacedCopy } from '$core/layout/placement';
import { isPlain, laidLayers, layersTogether } from '$core/inks/stack';
import { cannotLay } from '$core/media/press';
import { inJig, jigOfRun, liesAlike, type InJig } from '$lib/in-jig';
import type { RunRule } from '$lib/run-rule';
import type { Condition } from '../conditions/condition';
import type { Conditions } from '../conditions/conditions';
import type { Docket, Dockets } from '../dockets/dockets';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import { isDividedOtherwise } from './divided-walls';
import type { Jigs } from '../machines/jigs';
import type { DocketParts } from './docket-parts';
import type { Lanes } from './lanes';
import type { PlateFiles } from './plate-files';
import { isWhole, WHOLE, type RunPart } from './run-parts';
import { forOther, isForLane, isMoreUrgent, mustBeOpen } from './run-rules';
import { ruleOf, type Run, type RunRow } from './run';
import type { Runs } from './run-store';

export interface RunChange {
  rule?: RunRule | undefined;
  docketIds?: number[] | undefined;
  held?: number[] | undefined;
  pins?: PlacedPin[] | undefined;
}

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
  conditions: Conditions;
  db: Db;
  events: Events;
  dockets: Dockets;
  lanes: Lanes;
  parts: DocketParts;
  runs: Runs;
  plateFiles: PlateFiles;
  jigs: Jigs;
}

/** Whether a docket lies in a run that is not printed yet. */
const isLying = (docket: Docket): docket is Docket & { runId: number } => docket.runId !== null && docket.runState !== 'printed';

/** What a person changes about runs. */
export class RunEditing {
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
    const { db, dockets, lanes, events } = this.#needs;
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
        this.#mustLie(lane, list);
        const run = wall ? this.#wallRun(lane, wall) : alone ? this.#newRun(lane, jig) : this.#openRun(lane, jig);
        const ids = this.#needs.runs.entries(run).map((entry) => entry.docket_id);
        const all = ids.map((id) => dockets.get(id));
        this.#mustBeLaid(lane, [...all, ...list]);
        for (const docket of list) {
          if (ids.includes(docket.id)) continue;
          const before = all.findIndex((other) => isMoreUrgent(docket, other));
          all.splice(before < 0 ? all.length : before, 0, docket);
          db.prepare('INSERT INTO run_docket (run_id, docket_id, position) VALUES (?, ?, 0)').run(run, docket.id);
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

  /** @throws Problem where the jig of a docket cannot be printed in there */
  #mustLie(lane: number, list: readonly Docket[]): void {
    const { jigs, lanes } = this.#needs;
    const { condition } = lanes.get(lane);
    for (const docket of list) {
      const why = docket.choices.jig ? jigs.whyNot(docket.choices, condition) : '';
      if (why !== '') throw new Problem(422, `${docket.name}: ${why}`);
    }
  }

  /** @throws Problem where a lane's machine cannot lay down what dockets are printed in */
  #mustBeLaid(lane: number, list: readonly Docket[]): void {
    const { dockets, lanes } = this.#needs;
    const { press } = lanes.get(lane).condition;
    const stacks = list.map((docket) => dockets.layers(docket).stack);
    for (const [i, docket] of list.entries()) {
      const alone = cannotLay(laidLayers(stacks[i]!), press);
      if (alone)
        throw new Problem(422, `${docket.name} cannot be printed here: ${alone} Choose another media, or change its layers.`);
    }
    const { layers } = layersTogether(stacks);
    const why = cannotLay(layers, press);
    if (why) throw new Problem(422, `These cannot be printed together: ${why} RIP some of them first, or change their layers.`);
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
      if (this.#isLaid(id)) now.push(id);
    }
    if (now.length > 0) this.add(now);
    return { laidOut: now.length, waiting: ids.length - now.length };
  }

  #isLaid(id: number): boolean {
    const { dockets, conditions, jigs } = this.#needs;
    const docket = dockets.get(id);
    const { conditionId, jig } = docket.choices;
    if (jig && conditionId !== null && jigs.whyNot(docket.choices, conditions.get(conditionId)) !== '') return false;
    const { stack } = dockets.layers(docket);
    if (isPlain(stack) || conditionId === null) return true;
    return cannotLay(laidLayers(stack), conditions.get(conditionId).press) === undefined;
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
    const { db, dockets, lanes, parts } = this.#needs;
    const { condition } = lanes.get(laneId);
    const waiting = parts.of(docketId).filter(({ state }) => state !== 'printed');
    const rest = parts.waiting(docketId);
    for (const { runId, state } of waiting) {
      mustBeOpen({ state });
      db.prepare('DELETE FROM run_docket WHERE run_id = ? AND docket_id = ?').run(runId, docketId);
      db.prepare('UPDATE run SET version = version + 1 WHERE id = ?').run(runId);
    }
    const { version, choices } = dockets.get(docketId);
    if (choices.conditionId !== condition.id)
      dockets.change(docketId, version, { choices: { ...choices, conditionId: condition.id } });
    return { rest, held: waiting.some(({ held }) => held === 1) };
  }

  /** Lays out what of a divided docket lies in no run, in a run of its own. @returns its number */
  addRest(docketId: number): number {
    const { db, dockets, events, lanes, parts, runs } = this.#needs;
    const docket = dockets.get(docketId);
    const lane = lanes.of(docket);
    const { condition, rule } = lanes.get(lane);
    const rest = parts.rest(docket, condition);
    if (!rest) throw new Problem(409, `All copies of ${docket.name} lie in runs, or are printed.`);
    const { wall, jig } = docket.choices;
    this.#mustLie(lane, [docket]);
    this.#mustBeLaid(lane, [docket]);
    const made = db.transaction(() => {
      parts.forgetTakenOut(docketId);
      const made = wall ? runs.create(lane, condition.id, { ...rule, placing: 'rows' }) : this.#newRun(lane, jig);
      this.#put(made, docketId, 1, { ...rest, held: 0 });
      return made;
    })();
    events.changed('runs', [made]);
    events.changed('dockets', [docketId]);
    return made;
  }

  #put(runId: number, docketId: number, position: number, part: RunPart & { held: number }): void {
    const { copies, first, held, records, pieces, division } = part;
    this.#needs.db
      .prepare(
        'INSERT INTO run_docket (run_id, docket_id, position, copies, first, held, records, pieces, division) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)'
      )
      .run(runId, docketId, position, copies, first, held, records, pieces, division);
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
         ) ORDER BY id DESC`
      )
      .all(laneId)
      .find(({ rule }) => liesAlike(jigOfRun(ruleOf(rule)), jig));
    return open?.id ?? this.#newRun(laneId, jig);
  }

  #newRun(laneId: number, jig: InJig | null): number {
    const { condition, rule } = this.#needs.lanes.get(laneId);
    return this.#needs.runs.create(laneId, condition.id, inJig(rule, jig));
  }

  change(id: number, version: number, change: RunChange): Run {
    const { conditions, db, events, parts, runs } = this.#needs;
    const run = runs.row(id);
    if (run.version !== version)
      throw new Problem(
        409,
        'This run was changed in another window meanwhile. The newer layout is shown now; make your change again.'
      );
    mustBeOpen(run);
    if (change.rule) this.#checkJig(change.rule, conditions.get(run.condition_id));
    const before = new Map(runs.entries(id).map((entry) => [entry.docket_id, entry]));
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
        for (const entry of before.values()) if (!change.docketIds.includes(entry.docket_id)) parts.takeOut(id, entry);
        db.prepare('DELETE FROM run_docket WHERE run_id = ?').run(id);
        // What was taken out comes back as it lay there.
        change.docketIds.forEach((docket, i) =>
          this.#put(id, docket, i + 1, before.get(docket) ?? { ...(taken.get(docket) ?? WHOLE), held: 0 })
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
   * @param whole those that come into the run with all of their copies
   * @throws Problem for a docket that is gone, is printed otherwise by now, or waits in another run: it would be printed twice
   */
  #mustComeIn(run: RunRow, all: readonly number[], whole: readonly number[]): void {
    const { conditions, dockets } = this.#needs;
    const condition = conditions.get(run.condition_id);
    for (const docketId of whole) {
      const { name, choices, runId, runState } = dockets.get(docketId);
      const own = choices.conditionId === null ? undefined : conditions.get(choices.conditionId);
      if (!isForLane(own, condition)) throw new Problem(409, forOther(name, own, condition));
      if (runId !== null && runId !== run.id && runState !== 'printed')
        throw new Problem(409, `${name} lies in run ${runId} by now. Take it out of there first.`);
    }
    if (whole.length > 0 && run.lane_id !== null)
      this.#mustBeLaid(
        run.lane_id,
        all.map((docketId) => dockets.get(docketId))
      );
  }

  /**
   * A run of its own for copies that are to be printed once more, with the same rule: what their dockets are now.
   *
   * @param copies as the run's layout has them
   * @returns its number
   */
  again(id: number, copies: readonly Pick<PlacedCopy, 'id' | 'copy'>[]): number {
    const { db, events, runs } = this.#needs;
    const run = runs.get(id);
    if (run.laneId === null) throw new Problem(409, 'Charts are printed again from their condition.');
    const wanted = new Set(copies.map((copy) => `${copy.id}/${copy.copy}`));
    const found = run.layout.parts.flatMap((part) => part.copies).filter((copy) => wanted.has(`${copy.id}/${copy.copy}`));
    if (found.length === 0) throw new Problem(409, 'None of these copies lies in this run any more.');
    this.#checkJig(run.rule, run.condition);
    const other = run.dockets.find((docket, i) => isDividedOtherwise(docket, run.condition, runs.entries(id)[i]!));
    if (other)
      throw new Problem(
        409,
        `${other.name} is divided otherwise since it was printed: a panel would not meet the others. Take the change of its wall back first, or lay all of it out anew.`
      );
    // In a jig each lies in its pocket again.
    const hasPockets = run.rule.jig !== null;
    const rule = hasPockets ? { ...run.rule, pockets: { ...run.rule.pockets, sharing: 'by hand' as const } } : run.rule;
    const spoiled = new Set(found);
    const loads = run.layout.parts.map((part) => part.copies.filter((copy) => spoiled.has(copy)));
    const made = db.transaction(() => {
      const made = runs.create(run.laneId, run.condition.id, rule);
      runs.putCopies(made, run, found);
      if (hasPockets)
        runs.pinToPockets(
          made,
          loads.filter(({ length }) => length > 0)
        );
      return made;
    })();
    events.changed('runs', [made]);
    events.changed(
      'dockets',
      run.dockets.map((docket) => docket.id)
    );
    return made;
  }

  /**
   * Takes panels out of an open run and into one of their own, with the same rule.
   *
   * @param version of the run that they were chosen in
   * @returns the new run's number
   */
  apart(id: number, version: number, copies: readonly Pick<PlacedCopy, 'id' | 'copy'>[]): number {
    const { db, events, runs } = this.#needs;
    const run = runs.get(id);
    if (run.version !== version) throw new Problem(409, 'This run was changed in another window meanwhile. Choose the panels again.'); // prettier-ignore
    mustBeOpen(run);
    if (run.hindrance) throw new Problem(409, run.hindrance);
    const wanted = new Set(copies.map((copy) => `${copy.id}/${copy.copy}`));
    const panels = new Set(run.laid.flatMap(({ id: key, panel }) => (panel ? [key] : [])));
    const all = run.layout.parts.flatMap((part) => part.copies);
    const isChosen = (copy: PlacedCopy) => panels.has(copy.id) && wanted.has(`${copy.id}/${copy.copy}`);
    const [chosen, rest] = [all.filter(isChosen), all.filter((copy) => !isChosen(copy))];
    if (chosen.length === 0) throw new Problem(409, 'None of these panels lies in this run any more.');
    if (rest.length === 0) throw new Problem(409, 'All that lies in this run is chosen: there would be nothing left of it.');
    const made = db.transaction(() => {
      const made = runs.create(run.laneId, run.condition.id, run.rule);
      runs.putCopies(made, run, chosen);
      // What is held back lies nowhere, and stays.
      db.prepare('DELETE FROM run_docket WHERE run_id = ? AND held = 0').run(id);
      runs.putCopies(id, run, rest);
      db.prepare("UPDATE run SET pins = '[]', version = version + 1 WHERE id = ?").run(id);
      return made;
    })();
    events.changed('runs', [id, made]);
    events.changed('dockets', run.dockets.map((docket) => docket.id)); // prettier-ignore
    return made;
  }

  /** @throws Problem where a run cannot be placed in the jig that its rule says */
  #checkJig({ jig }: Pick<RunRule, 'jig'>, { sheetMm, machine }: Condition): void {
    if (jig === null) return;
    this.#needs.jigs.stock(jig);
    if (sheetMm === null)
      throw new Problem(
        422,
        `${machine} prints this media from the roll: things lie in a jig on a flatbed, where media is in sheets.`
      );
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
}
