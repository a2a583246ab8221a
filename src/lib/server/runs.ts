import { mkdirSync, readdirSync, rmSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { ArtworkError } from '$core/artwork/facts';
import { sumOf, type PlacedCopy, type Pin as PlacedPin, type Placement, type Stock } from '$core/layout/placement';
import { pieceOf } from '$core/layout/pieces';
import type { RunPiece } from '$core/layout/run-layout';
import type { DropCounts } from '$core/inks/drops';
import { RunRule, stockOf, toRunPieces, type DocketChoices } from '$lib/model';
import type { Condition } from './conditions';
import type { RunDocketRow, RunRow, RunState } from './db/rows';
import type { Docket } from './dockets';
import type { TaskProgress } from './events';
import { equalParts, freeze, layoutRequest, planKey } from './freezing';
import { thaw, type FrozenRun } from './frozen-run';
import { isDiskFull } from './files';
import { Problem, sentence } from './problem';
import type { Shop } from './shop';
import { KERNELS_FILE, MASK_FILE } from './tasks/pool';
import { ripToFile, type RipFiles } from './tasks/rip';
import type { RipJob } from './tasks/rip-job';
import type { TaskContext } from './tasks/runner';

export interface RunResult {
  widthPx: number;
  heightPx: number;
  bytes: number;
  drops: DropCounts[];
  inkMl: number[];
  seconds: number;
}

export interface Run {
  id: number;
  state: RunState;
  rule: RunRule;
  version: number;
  laneId: number | null;
  condition: Condition;
  stock: Stock;
  /** All of them, in the order of the list. */
  dockets: Docket[];
  /** Of every docket: how many of its copies are in this run (nothing for all), how many were in earlier ones, and whether it is held. */
  entries: { docketId: number; copies: number | null; first: number; held: boolean }[];
  /** Pieces of the dockets that are not held, as they are laid out. */
  laid: RunPiece[];
  pins: PlacedPin[];
  layout: Placement;
  /** The layout is one in rows until a better one is found. */
  provisional: boolean;
  /** When it was released to print; nothing while it waits for that. */
  releasedAt: number | null;
  /** Only a person releases it: one took it back, or it went wrong. */
  byHand: boolean;
  /** How often one release prints it: equal sheets are one run. */
  times: number;
  result: RunResult | null;
  /** The plates are of an older layout. */
  stale: boolean;
  task: TaskProgress | null;
}

export interface RunChange {
  rule?: RunRule | undefined;
  docketIds?: number[] | undefined;
  held?: number[] | undefined;
  pins?: PlacedPin[] | undefined;
}

const PRIORITY = { high: 0, normal: 1, low: 2 };
/** Printed runs that lists go back to. */
const MOST_PRINTED = 60;

export class Runs {
  readonly #shop: Shop;
  readonly #folder: string;

  constructor(shop: Shop) {
    this.#shop = shop;
    this.#folder = join(shop.folder, 'plates');
    mkdirSync(this.#folder, { recursive: true });
    // What a stopped server left half-made.
    for (const name of readdirSync(this.#folder)) if (name.endsWith('.part')) rmSync(join(this.#folder, name));
    shop.tasks.register('rip', 1, (subject, context) => this.#rip(Number(subject), context));
  }

  /** All that are not printed, and the newest that are. */
  list(): Run[] {
    return this.#shop.db
      .prepare<[number], RunRow>(
        `SELECT * FROM run WHERE chart_id IS NULL AND (state != 'printed' OR id IN (
           SELECT id FROM run WHERE chart_id IS NULL AND state = 'printed' ORDER BY id DESC LIMIT ?
         )) ORDER BY id DESC`
      )
      .all(MOST_PRINTED)
      .map((row) => this.#toRun(row));
  }

  /** Those that are not printed. */
  open(): Run[] {
    return this.#shop.db
      .prepare<[], RunRow>("SELECT * FROM run WHERE chart_id IS NULL AND state != 'printed' ORDER BY id")
      .all()
      .map((row) => this.#toRun(row));
  }

  /** The chart that a run prints; none for a run of dockets. */
  chartOf(id: number): number | null {
    return this.#row(id).chart_id;
  }

  get(id: number): Run {
    return this.#toRun(this.#row(id));
  }

  /**
   * Puts dockets into the open runs of their lanes, or new ones: the more urgent before the less.
   *
   * @param laneId a lane by choice; a docket's own where nothing is said
   * @returns the runs they went to
   */
  add(docketIds: readonly number[], laneId?: number): number[] {
    const { db, dockets, lanes, events } = this.#shop;
    const byLane = new Map<number, Docket[]>();
    for (const id of docketIds) {
      const docket = dockets.get(id);
      const lane = laneId ?? lanes.of(docket);
      byLane.set(lane, [...(byLane.get(lane) ?? []), docket]);
    }
    const runs = db.transaction(() =>
      [...byLane].map(([lane, list]) => {
        const run = this.#openRun(lane);
        const ids = this.#entries(run).map((entry) => entry.docket_id);
        const all = ids.map((id) => dockets.get(id));
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
    events.changed('runs');
    events.changed('dockets');
    return runs;
  }

  /** Takes a docket out of the open run that it is in, and puts it into the one of another lane, in that lane's print mode. */
  move(docketId: number, laneId: number): number {
    const { db, dockets, lanes } = this.#shop;
    const docket = dockets.get(docketId);
    const lane = lanes.get(laneId);
    const run = docket.runId === null ? undefined : this.get(docket.runId);
    return db.transaction(() => {
      if (run && run.state !== 'printed') {
        this.#mustBeOpen(run);
        db.prepare('DELETE FROM run_docket WHERE run_id = ? AND docket_id = ?').run(run.id, docketId);
        db.prepare('UPDATE run SET version = version + 1 WHERE id = ?').run(run.id);
      }
      if (docket.choices.conditionId !== lane.condition.id) {
        const choices: DocketChoices = { ...docket.choices, conditionId: lane.condition.id };
        dockets.change(docketId, docket.version, { choices });
      }
      return this.add([docketId], laneId)[0] as number;
    })();
  }

  /** The run of a lane that dockets still come into; a new one where there is none. */
  #openRun(laneId: number): number {
    const { db, lanes } = this.#shop;
    const open = db
      .prepare<[number], { id: number }>(
        `SELECT id FROM run WHERE lane_id = ? AND released_at IS NULL AND times = 1 AND (state = 'laying out' OR (
           state = 'ripped' AND id NOT IN (SELECT run_id FROM run_docket WHERE copies IS NOT NULL)
         )) ORDER BY id DESC`
      )
      .get(laneId);
    if (open) return open.id;
    const lane = lanes.get(laneId);
    return this.#newRun(laneId, lane.condition.id, lane.rule);
  }

  #newRun(laneId: number | null, conditionId: number, rule: RunRule): number {
    return Number(
      this.#shop.db
        .prepare("INSERT INTO run (lane_id, condition_id, rule, state, added_at) VALUES (?, ?, ?, 'laying out', ?)")
        .run(laneId, conditionId, JSON.stringify(rule), Date.now()).lastInsertRowid
    );
  }

  change(id: number, version: number, change: RunChange): Run {
    const { db, events } = this.#shop;
    const run = this.get(id);
    if (run.version !== version)
      throw new Problem(
        409,
        'This run was changed in another window meanwhile. The newer layout is shown now; make your change again.'
      );
    this.#mustBeOpen(run);
    db.transaction(() => {
      db.prepare('UPDATE run SET rule = ?, pins = ?, version = version + 1 WHERE id = ?').run(
        JSON.stringify(change.rule ?? run.rule),
        JSON.stringify(change.pins ?? run.pins),
        id
      );
      if (change.docketIds) {
        const before = new Map(this.#entries(id).map((entry) => [entry.docket_id, entry]));
        db.prepare('DELETE FROM run_docket WHERE run_id = ?').run(id);
        change.docketIds.forEach((docket, i) => {
          const entry = before.get(docket);
          db.prepare('INSERT INTO run_docket (run_id, docket_id, position, copies, first, held) VALUES (?, ?, ?, ?, ?, ?)').run(
            id,
            docket,
            i + 1,
            entry?.copies ?? null,
            entry?.first ?? 0,
            entry?.held ?? 0
          );
        });
      }
      if (change.held) {
        db.prepare('UPDATE run_docket SET held = 0 WHERE run_id = ?').run(id);
        for (const docket of change.held)
          db.prepare('UPDATE run_docket SET held = 1 WHERE run_id = ? AND docket_id = ?').run(id, docket);
      }
    })();
    events.changed('runs');
    if (change.docketIds) events.changed('dockets');
    return this.get(id);
  }

  async remove(id: number): Promise<void> {
    const { db, events } = this.#shop;
    const run = this.get(id);
    if (this.chartOf(id) !== null) throw new Problem(409, 'This is a chart; it is kept with its condition.');
    const prints = db.prepare<[number], { n: number }>('SELECT count(*) AS n FROM print WHERE run_id = ?').get(id)?.n ?? 0;
    if (prints > 0) throw new Problem(409, `Run ${id} has been printed; it is kept as a record.`);
    this.#mustBeOpen(run);
    const { plates_name: name } = this.#row(id);
    db.prepare('DELETE FROM run WHERE id = ?').run(id);
    if (name) await Promise.all(Object.values(this.#paths(name)).map((path) => rm(path, { force: true })));
    events.changed('runs');
    events.changed('dockets');
  }

  /** The layout that would be RIPped. @throws Problem when not all of it can be */
  async #settled(run: Run): Promise<Placement> {
    const layout = await this.#shop.placements.get(run.id, layoutRequest(run));
    if (layout.refusal) throw new Problem(422, layout.refusal);
    const wide = layout.tooWide[0];
    if (wide) {
      const docket = run.dockets.find((d) => String(d.id) === wide.id);
      throw new Problem(
        422,
        `${docket?.name} is ${wide.width.toFixed(1)} mm wide; ${wide.usable.toFixed(1)} mm of the ${run.stock.kind} can be used. Make it smaller or choose a wider media.`
      );
    }
    if (layout.parts.every((part) => part.copies.length === 0)) throw new Problem(422, 'There is nothing to print in this run.');
    return layout;
  }

  frozen(id: number): FrozenRun {
    const { plan } = this.#row(id);
    if (!plan) throw new Problem(409, 'This run has not been RIPped.');
    return thaw(plan);
  }

  /**
   * Starts the RIP of a run as it is now. One that takes several strips or sheets becomes several runs, this one being the
   * first; held dockets stay behind in a new one.
   *
   * @param release whether they print as soon as they can
   * @param fullM2 a part that pieces cover by less waits in the new run too
   */
  async rip(id: number, { release = false, fullM2 = 0 } = {}): Promise<TaskProgress> {
    const { db, tasks, events } = this.#shop;
    this.#mustBeOpen(this.get(id));
    const { version } = this.get(id);
    const layout = await this.#settled(this.get(id));
    const run = this.get(id);
    if (run.version !== version) throw new Problem(409, 'The run was changed while it was laid out. RIP it again.');
    this.#mustBeOpen(run);
    const used = layout.parts.filter((part) => part.copies.length > 0);
    const waiting = used.filter((part) => part.usedM2 < fullM2);
    const sheets = equalParts(
      used.filter((part) => part.usedM2 >= fullM2),
      run
    );
    if (sheets.length === 0) throw new Problem(409, 'No sheet is filled that far yet.');
    const frozen = sheets.map(({ part }) => freeze(this.#shop, run, part));
    const whole = sheets.length === 1 && sheets[0]?.times === 1 && waiting.length === 0;
    const ids = db.transaction(() => {
      const held = run.entries.filter((entry) => entry.held);
      if (held.length > 0 || waiting.length > 0) {
        const rest = this.#newRun(run.laneId, run.condition.id, run.rule);
        db.prepare('UPDATE run SET times = ? WHERE id = ?').run(run.times, rest);
        if (waiting.length > 0)
          this.#keepOnly(
            run,
            rest,
            waiting.flatMap((part) => part.copies)
          );
        for (const { docketId } of held)
          db.prepare('UPDATE run_docket SET run_id = ? WHERE run_id = ? AND docket_id = ?').run(rest, id, docketId);
      }
      return sheets.map(({ part, times }, i) => {
        const runId = i === 0 ? id : this.#newRun(run.laneId, run.condition.id, run.rule);
        if (!whole) this.#keepOnly(run, runId, part.copies);
        db.prepare(
          `UPDATE run SET state = 'ripping', plan = ?, placement = ?, times = ?, result = NULL, released_at = ?, version = version + 1
           WHERE id = ?`
        ).run(
          JSON.stringify(frozen[i]),
          JSON.stringify({ stock: run.stock, ...sumOf([part], run.stock.width) }),
          // A run of equal sheets stays one when it is RIPped again.
          times * run.times,
          release ? Date.now() : null,
          runId
        );
        db.prepare('UPDATE run SET plan_key = ? WHERE id = ?').run(planKey(this.#shop, this.get(runId)), runId);
        tasks.add('rip', runId);
        return runId;
      });
    })();
    events.changed('runs');
    events.changed('dockets');
    return tasks.latest('rip', ids[0] as number) as TaskProgress;
  }

  /** Writes down which copies one part of a run that was divided has. */
  #keepOnly(run: Run, runId: number, copies: readonly PlacedCopy[]): void {
    const { db } = this.#shop;
    db.prepare('DELETE FROM run_docket WHERE run_id = ?').run(runId);
    db.prepare("UPDATE run SET pins = '[]' WHERE id = ?").run(runId);
    run.entries.forEach(({ docketId, first }, i) => {
      const numbers = copies.filter((copy) => pieceOf(copy.id).docket === String(docketId)).map((copy) => copy.copy);
      if (numbers.length === 0) return;
      db.prepare('INSERT INTO run_docket (run_id, docket_id, position, copies, first) VALUES (?, ?, ?, ?, ?)').run(
        runId,
        docketId,
        i + 1,
        numbers.length,
        first + Math.min(...numbers)
      );
    });
  }

  /** Lets a run print as soon as its lane is loaded and the machine is free; one that is not RIPped is RIPped first. */
  async release(id: number, { fullM2 = 0 } = {}): Promise<void> {
    const { db, events } = this.#shop;
    const run = this.get(id);
    if (run.state === 'ripped' && !run.stale && fullM2 === 0 && run.entries.every((entry) => !entry.held)) {
      db.prepare('UPDATE run SET released_at = ? WHERE id = ?').run(Date.now(), id);
      events.changed('runs');
      this.#shop.releasing.look();
      return;
    }
    if (run.state === 'ripping') {
      db.prepare('UPDATE run SET released_at = ? WHERE id = ?').run(Date.now(), id);
      events.changed('runs');
      return;
    }
    await this.rip(id, { release: true, fullM2 });
  }

  /** Takes a release back, as long as nothing prints. */
  unrelease(id: number): void {
    const run = this.get(id);
    if (run.state === 'printing') throw new Problem(409, 'The run is being printed. Cancel the print instead.');
    this.#shop.db.prepare('UPDATE run SET released_at = NULL, by_hand = 1 WHERE id = ?').run(id);
    this.#shop.events.changed('runs');
  }

  /** The plate file and its overview, which exist once a run is RIPped. */
  plates(id: number): RipFiles {
    const { plates_name: name } = this.#row(id);
    if (!name) throw new Problem(409, 'This run has not been RIPped.');
    return this.#paths(name);
  }

  setState(id: number, state: RunState): void {
    this.#shop.db.prepare('UPDATE run SET state = ? WHERE id = ?').run(state, id);
    this.#shop.events.changed('runs');
  }

  async #rip(id: number, { signal, progress }: TaskContext): Promise<void> {
    const { db, files, ripPool, events, sources, tasks } = this.#shop;
    const row = this.#row(id);
    const frozen = this.frozen(id);
    const before = row.plates_name;
    const name = `run-${id}-${Date.now()}`;
    const startedAt = Date.now();
    try {
      const job: RipJob = {
        id: name,
        plan: {
          ...frozen.plan,
          sources: await Promise.all(
            frozen.plan.sources.map(async (source) => ({
              ...source,
              file: files.path(source.file),
              sources: await sources.paths(source.sources)
            }))
          ),
          overlays: (frozen.plan.overlays ?? []).map((overlay) => ({ ...overlay, file: files.path(overlay.file) }))
        },
        profile: frozen.profile ? files.path(frozen.profile) : '',
        curves: frozen.curves,
        kernels: KERNELS_FILE,
        mask: MASK_FILE,
        method: frozen.method
      };
      const result = await ripToFile(ripPool, job, this.#paths(name), signal, progress);
      const kept: RunResult = { ...result, seconds: (Date.now() - startedAt) / 1000 };
      db.prepare("UPDATE run SET state = 'ripped', result = ?, plates_name = ? WHERE id = ?").run(JSON.stringify(kept), name, id);
      if (before) await Promise.all(Object.values(this.#paths(before)).map((path) => rm(path, { force: true })));
    } catch (error) {
      // A server that stops leaves the run at the RIP: the task begins again at the next start.
      if (tasks.closed) throw error;
      db.prepare("UPDATE run SET state = 'laying out', result = NULL, plates_name = NULL, released_at = NULL WHERE id = ?").run(
        id
      );
      if (before) await Promise.all(Object.values(this.#paths(before)).map((path) => rm(path, { force: true })));
      if (isDiskFull(error))
        throw new Problem(
          507,
          'The disk is full: the RIP was ended and its half-made plates were deleted. Make room and RIP again.'
        );
      if (signal.aborted || error instanceof Problem || error instanceof ArtworkError) throw error;
      this.#shop.log.error({ run: id, error: sentence(error) }, 'RIP failed');
      throw new Problem(
        500,
        'The RIP stopped, and the program does not know why. RIP again; if it stops again, RIP the dockets apart to find the artwork.'
      );
    } finally {
      if (!tasks.closed) {
        events.changed('runs');
        this.#shop.releasing.look();
        if (row.chart_id !== null) events.changed('conditions');
      }
    }
  }

  #paths(name: string): RipFiles {
    return {
      plates: join(this.#folder, `${name}.tif`),
      overview: join(this.#folder, `${name}.overview`),
      coarse: join(this.#folder, `${name}.coarse`)
    };
  }

  #mustBeOpen(run: Run): void {
    if (run.state === 'ripping') throw new Problem(409, 'The run is being RIPped. Cancel that first.');
    if (run.state === 'printing') throw new Problem(409, 'The run is being printed. Wait for it, or cancel the print.');
    if (run.state === 'printed') throw new Problem(409, 'The run has been printed; it can be printed again as it is.');
  }

  #isStale(run: Run, row: RunRow): boolean {
    if (!row.plan || !row.result || run.state !== 'ripped' || row.chart_id !== null) return false;
    try {
      const { stock } = JSON.parse(row.placement ?? '{}') as { stock?: Stock };
      // Plates for a narrower roll or smaller sheet print on a larger one as they are.
      return planKey(this.#shop, { ...run, stock: stock && isWithin(stock, run.stock) ? stock : run.stock }) !== row.plan_key;
    } catch {
      return true;
    }
  }

  #entries(id: number): RunDocketRow[] {
    return this.#shop.db
      .prepare<[number], RunDocketRow>('SELECT docket_id, copies, first, held FROM run_docket WHERE run_id = ? ORDER BY position')
      .all(id);
  }

  #toRun(row: RunRow): Run {
    const { dockets, conditions, tasks, placements } = this.#shop;
    const entries = this.#entries(row.id);
    const condition = conditions.get(row.condition_id);
    const rule = RunRule.parse(JSON.parse(row.rule));
    const list = entries.map((entry) => dockets.get(entry.docket_id));
    const laid = list.flatMap((docket, i) => {
      const entry = entries[i] as RunDocketRow;
      if (entry.held) return [];
      const { copies, first } = entry;
      return toRunPieces(docket, { media: condition.media, contour: dockets.contour(docket), copies, first });
    });
    const open: Run = {
      id: row.id,
      state: row.state,
      rule,
      version: row.version,
      laneId: row.lane_id,
      condition,
      stock: stockOf(condition, rule),
      dockets: list,
      entries: entries.map(({ docket_id: docketId, copies, first, held }) => ({ docketId, copies, first, held: held === 1 })),
      laid,
      pins: JSON.parse(row.pins) as PlacedPin[],
      layout: sumOf([], condition.rollWidthMm),
      provisional: false,
      releasedAt: row.released_at,
      byHand: row.by_hand === 1,
      times: row.times,
      result: row.result ? (JSON.parse(row.result) as RunResult) : null,
      stale: false,
      task: tasks.latest('rip', row.id) ?? null
    };
    if (row.chart_id !== null) return open;
    const run = { ...open, stale: this.#isStale(open, row) };
    if (row.placement && row.state !== 'laying out' && !run.stale)
      return { ...run, layout: JSON.parse(row.placement) as Placement };
    return { ...run, ...placements.now(run.id, layoutRequest(run)) };
  }

  #row(id: number): RunRow {
    const row = this.#shop.db.prepare<[number], RunRow>('SELECT * FROM run WHERE id = ?').get(id);
    if (!row) throw new Problem(404, 'There is no such run.');
    return row;
  }
}

const isWithin = (small: Stock, large: Stock): boolean =>
  small.kind === large.kind &&
  small.width <= large.width + 0.5 &&
  (small.kind === 'roll' || large.kind === 'roll' || small.height <= large.height + 0.5);

function isMoreUrgent(p: Docket, q: Docket): boolean {
  const byPriority = PRIORITY[p.priority] - PRIORITY[q.priority];
  if (byPriority !== 0) return byPriority < 0;
  return p.dueOn !== '' && (q.dueOn === '' || p.dueOn < q.dueOn);
}
