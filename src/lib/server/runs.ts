import { mkdirSync, readdirSync, rmSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Preparation } from '$core/artwork/preparation';
import type { Tool } from '$core/artwork/roles';
import { transformPath, type Path } from '$core/geometry/path';
import { layOutRun, pieceToRun, ripPieces } from '$core/layout/run-layout';
import type { DropCounts } from '$core/rip/ink';
import type { RipPlan } from '$core/rip/plan';
import { DEFAULT_RULE, RunRule, toLayoutDocket } from '$lib/model';
import type { DropVolumes } from '$core/screening/thresholds';
import type { Condition } from './conditions';
import type { RunRow, RunState } from './db/rows';
import type { Docket } from './dockets';
import type { TaskProgress } from './events';
import { isDiskFull } from './files';
import { Problem } from './problem';
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
  condition: Condition;
  dockets: Docket[];
  result: RunResult | null;
  /** The plates are of an older layout. */
  stale: boolean;
  task: TaskProgress | null;
}

/** A run as it was RIPped; files are named by hash. */
export interface FrozenRun {
  plan: RipPlan;
  cuts: { docket: string; tool: Tool; path: Path }[];
  method: RunRule['method'];
  profile: string;
  /** By ink, 256 values → share of the fullest drop. */
  curves: number[][];
  drops: DropVolumes;
}

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

  list(): Run[] {
    return this.#shop.db
      .prepare<[], RunRow>('SELECT * FROM run WHERE chart_id IS NULL ORDER BY id DESC')
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

  /** Puts dockets into the open run of their condition, or a new one. @returns its number */
  add(docketIds: readonly number[]): number {
    const { db, dockets, events } = this.#shop;
    const list = docketIds.map((id) => dockets.get(id));
    const conditionId = list[0]?.choices.conditionId;
    if (conditionId === null || conditionId === undefined) throw new Problem(422, 'Choose a media and print mode first.');
    const other = list.find((docket) => docket.choices.conditionId !== conditionId);
    if (other) throw new Problem(422, `${other.name} is for another media. Dockets of one run are for one media.`);
    const id = db.transaction(() => {
      const open = db
        .prepare<[number], { id: number }>(
          "SELECT id FROM run WHERE condition_id = ? AND chart_id IS NULL AND state IN ('laying out', 'ripped') ORDER BY id DESC"
        )
        .get(conditionId);
      const run =
        open?.id ??
        Number(
          db
            .prepare("INSERT INTO run (condition_id, rule, state, added_at) VALUES (?, ?, 'laying out', ?)")
            .run(conditionId, JSON.stringify(DEFAULT_RULE), Date.now()).lastInsertRowid
        );
      const next =
        db
          .prepare<[number], { n: number }>('SELECT coalesce(max(position), 0) + 1 AS n FROM run_docket WHERE run_id = ?')
          .get(run)?.n ?? 1;
      docketIds.forEach((docket, i) =>
        db.prepare('INSERT OR IGNORE INTO run_docket (run_id, docket_id, position) VALUES (?, ?, ?)').run(run, docket, next + i)
      );
      return run;
    })();
    events.changed('runs');
    return id;
  }

  change(id: number, version: number, change: { rule?: RunRule; docketIds?: number[] }): Run {
    const { db, events } = this.#shop;
    const run = this.get(id);
    if (run.version !== version)
      throw new Problem(
        409,
        'This run was changed in another window meanwhile. The newer layout is shown now; make your change again.'
      );
    this.#mustBeOpen(run);
    db.transaction(() => {
      db.prepare('UPDATE run SET rule = ?, version = version + 1 WHERE id = ?').run(JSON.stringify(change.rule ?? run.rule), id);
      if (change.docketIds) {
        db.prepare('DELETE FROM run_docket WHERE run_id = ?').run(id);
        change.docketIds.forEach((docket, i) =>
          db.prepare('INSERT INTO run_docket (run_id, docket_id, position) VALUES (?, ?, ?)').run(id, docket, i + 1)
        );
      }
    })();
    events.changed('runs');
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
  }

  /** What the RIP would be given now. @throws Problem when a docket cannot be placed */
  freeze(run: Run): FrozenRun {
    const { artworks, conditions } = this.#shop;
    const dockets = run.dockets.map(toLayoutDocket);
    const layout = layOutRun(dockets, run.condition.rollWidthMm, run.rule);
    const wide = layout.tooWide[0];
    if (wide) {
      const docket = run.dockets.find((d) => String(d.id) === wide.id);
      throw new Problem(
        422,
        `${docket?.name} is ${wide.width.toFixed(1)} mm wide; ${wide.usable.toFixed(1)} mm of the roll can be used. Make it smaller or choose a wider media.`
      );
    }
    if (layout.copies.length === 0) throw new Problem(422, 'There is nothing to print in this run.');
    const prepared = new Map(run.dockets.map((docket) => [String(docket.id), this.#shop.dockets.prepared(docket)]));
    const unmade = run.dockets.find((docket) => docket.choices.cut && prepared.get(String(docket.id))?.finished.length === 0);
    if (unmade)
      throw new Problem(
        422,
        `${unmade.name} is to be cut, and has no cut line. Give it one on its docket, or switch cutting off.`
      );
    const pages = new Map(
      run.dockets.map((docket) => [
        String(docket.id),
        {
          file: artworks.get(docket.artworkId).pdfHash ?? '',
          page: docket.page,
          prepare: (prepared.get(String(docket.id)) as { preparation: Preparation }).preparation,
          sources: this.#shop.sources.chosen(docket.choices.sources)
        }
      ])
    );
    const { sources, pieces } = ripPieces(layout, dockets, pages);
    const { curves, profileHash } = conditions.colour(run.condition.id);
    const { dpi, drops } = run.condition.mode;
    const plan: RipPlan = {
      widthMm: run.condition.rollWidthMm,
      lengthMm: layout.length,
      dpi: { x: dpi, y: dpi },
      sources,
      pieces,
      marks: layout.marks
    };
    const cuts = layout.copies.flatMap((copy, i) => {
      const piece = pieces[i];
      if (!piece) return [];
      const place = pieceToRun(plan, piece);
      return (prepared.get(copy.id)?.finished ?? []).map(({ tool, path }) => ({
        docket: copy.id,
        tool,
        path: transformPath(path, place)
      }));
    });
    return { plan, cuts, method: run.rule.method, profile: profileHash, curves, drops };
  }

  frozen(id: number): FrozenRun {
    const { plan } = this.#row(id);
    if (!plan) throw new Problem(409, 'This run has not been RIPped.');
    const frozen = JSON.parse(plan) as FrozenRun & { cuts: { through?: boolean }[] };
    // A run that was printed before print modes had drops of their own.
    frozen.drops ??= [6, 13, 21];
    // A run that was printed before there were several tools tells its through cuts apart otherwise.
    for (const cut of frozen.cuts) cut.tool ??= cut.through ? 'through cut' : 'kiss cut';
    return frozen;
  }

  /** Starts the RIP of a run as it is now. */
  rip(id: number): TaskProgress {
    const { db, tasks, events } = this.#shop;
    const run = this.get(id);
    this.#mustBeOpen(run);
    const frozen = this.freeze(run);
    db.prepare("UPDATE run SET state = 'ripping', plan = ?, result = NULL WHERE id = ?").run(JSON.stringify(frozen), id);
    tasks.add('rip', id);
    events.changed('runs');
    return tasks.latest('rip', id) as TaskProgress;
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
          )
        },
        profile: frozen.profile ? files.path(frozen.profile) : '',
        curves: frozen.curves,
        kernels: KERNELS_FILE,
        mask: MASK_FILE,
        method: frozen.method,
        drops: frozen.drops
      };
      const result = await ripToFile(ripPool, job, this.#paths(name), signal, progress);
      const kept: RunResult = { ...result, seconds: (Date.now() - startedAt) / 1000 };
      db.prepare("UPDATE run SET state = 'ripped', result = ?, plates_name = ? WHERE id = ?").run(JSON.stringify(kept), name, id);
      if (before) await Promise.all(Object.values(this.#paths(before)).map((path) => rm(path, { force: true })));
    } catch (error) {
      // A server that stops leaves the run at the RIP: the task begins again at the next start.
      if (tasks.closed) throw error;
      db.prepare("UPDATE run SET state = 'laying out', result = NULL, plates_name = NULL WHERE id = ?").run(id);
      if (before) await Promise.all(Object.values(this.#paths(before)).map((path) => rm(path, { force: true })));
      if (isDiskFull(error))
        throw new Problem(
          507,
          'The disk is full: the RIP was ended and its half-made plates were deleted. Make room and RIP again.'
        );
      throw error;
    } finally {
      if (!tasks.closed) {
        events.changed('runs');
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
      return JSON.stringify(this.freeze(run)) !== row.plan;
    } catch {
      return true;
    }
  }

  #toRun(row: RunRow): Run {
    const { db, dockets, conditions, tasks } = this.#shop;
    const ids = db
      .prepare<[number], { docket_id: number }>('SELECT docket_id FROM run_docket WHERE run_id = ? ORDER BY position')
      .all(row.id);
    const run: Run = {
      id: row.id,
      state: row.state,
      rule: RunRule.parse(JSON.parse(row.rule)),
      version: row.version,
      condition: conditions.get(row.condition_id),
      dockets: ids.map(({ docket_id: id }) => dockets.get(id)),
      result: row.result ? (JSON.parse(row.result) as RunResult) : null,
      stale: false,
      task: tasks.latest('rip', row.id) ?? null
    };
    return { ...run, stale: this.#isStale(run, row) };
  }

  #row(id: number): RunRow {
    const row = this.#shop.db.prepare<[number], RunRow>('SELECT * FROM run WHERE id = ?').get(id);
    if (!row) throw new Problem(404, 'There is no such run.');
    return row;
  }
}
