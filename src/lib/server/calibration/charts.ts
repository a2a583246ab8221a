import { LRUCache } from 'lru-cache';
import { checkReadings, usualColour, type Finding, type ReadPatch } from '$core/charts/check-readings';
import { writeCgats } from '$core/colour/cgats';
import type { Triple } from '$core/colour/lab';
import type { Chart } from '$lib/calibration';
import type { Conditions } from '../conditions/conditions';
import type { Db } from '../platform/db/open';
import { Problem } from '../platform/problem';
import type { TaskRunner } from '../platform/tasks/runner';
import { throughNow, throughOf } from './chart-curves';
import { isRaw, type ChartDocument, type ChartRow } from './chart-rules';

interface Needs {
  db: Db;
  tasks: TaskRunner;
  conditions: Conditions;
}

/** Charts of which it is remembered what they were printed through: that never changes. */
const MOST_REMEMBERED = 500;

/** Charts as they are kept: each printed as a run of its own, with what was read of it. */
export class Charts {
  readonly #needs: Needs;
  readonly #through = new LRUCache<number, string>({ max: MOST_REMEMBERED });

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  get(id: number): Chart {
    return this.#toChart(this.row(id));
  }

  /** The newest chart of each kind. */
  of(conditionId: number): Chart[] {
    return this.#needs.db
      .prepare<[number], ChartRow>(
        `SELECT * FROM chart WHERE id IN (
           SELECT max(id) FROM chart WHERE condition_id = ? AND kind NOT IN ('colour', 'neighbours', 'variants') GROUP BY kind) ORDER BY id`
      )
      .all(conditionId)
      .map((row) => this.#toChart(row));
  }

  /** The newest charts of a colour: one of each kind on each condition. */
  ofColour(colourId: number): Chart[] {
    return this.#needs.db
      .prepare<[number], ChartRow>(
        'SELECT * FROM chart WHERE id IN (SELECT max(id) FROM chart WHERE colour_id = ? GROUP BY condition_id, kind) ORDER BY id'
      )
      .all(colourId)
      .map((row) => this.#toChart(row));
  }

  /** The newest strip of a docket's variants. */
  ofDocket(docketId: number): Chart | undefined {
    const row = this.#needs.db
      .prepare<[number], ChartRow>('SELECT * FROM chart WHERE docket_id = ? ORDER BY id DESC LIMIT 1')
      .get(docketId);
    return row && this.#toChart(row);
  }

  /** The readings as CGATS. */
  cgats(id: number): string {
    const chart = this.get(id);
    return writeCgats({
      head: {
        ORIGINATOR: 'Zing Mast',
        DESCRIPTOR: `Chart C${id}, ${chart.kind}`,
        CREATED: new Date(chart.readAt ?? chart.madeAt).toISOString(),
        MEASUREMENT_SOURCE: 'Illumination=D50 ObserverAngle=2'
      },
      patches: this.readPatches(chart).map(({ id: patch, inks, lab }) => ({ id: patch, inks, lab }))
    });
  }

  readPatches(chart: Chart): ReadPatch[] {
    return chart.layout.patches.flatMap((patch) => {
      const lab = chart.readings[patch.id];
      return lab ? [{ id: patch.id, inks: patch.inks, strip: patch.strip, lab }] : [];
    });
  }

  /** @throws Problem where a chart was printed through other curves, or asked of another profile, than there are now */
  mustBeOfNow({ id, isOld }: Chart): void {
    if (isOld)
      throw new Problem(
        409,
        `Chart C${id} was made before the condition was changed: what is read of it does not tell how it prints now. Make a new one.`
      );
  }

  row(id: number): ChartRow {
    const row = this.#needs.db.prepare<[number], ChartRow>('SELECT * FROM chart WHERE id = ?').get(id);
    if (!row) throw new Problem(404, 'There is no such chart.');
    return row;
  }

  #toChart(row: ChartRow): Chart {
    const { db, tasks } = this.#needs;
    const { layout, asked, madeOf, variants = [] } = JSON.parse(row.document) as ChartDocument;
    const readings = JSON.parse(row.readings) as Record<string, Triple>;
    const run = db
      .prepare<[number], { id: number; state: string }>('SELECT id, state FROM run WHERE chart_id = ?')
      .get(row.id) as { id: number; state: string };
    const print = db
      .prepare<[number], { id: number; state: string; reason: string | null }>(
        'SELECT id, state, reason FROM print WHERE run_id = ? ORDER BY id DESC LIMIT 1'
      )
      .get(run.id);
    const done = db
      .prepare<[number], { id: number }>("SELECT id FROM print WHERE run_id = ? AND state = 'done' ORDER BY id DESC LIMIT 1")
      .get(run.id);
    const task = tasks.latest('rip', run.id);
    const state: Chart['state'] =
      run.state === 'ripping'
        ? 'making'
        : run.state === 'printing'
          ? 'printing'
          : run.state === 'printed'
            ? 'printed'
            : task?.state === 'failed' || print?.state === 'failed'
              ? 'failed'
              : 'ready';
    const read = layout.patches.flatMap((patch) => {
      const lab = readings[patch.id];
      return lab ? [{ ...patch, lab }] : [];
    });
    return {
      id: row.id,
      conditionId: row.condition_id,
      kind: row.kind,
      layout,
      runId: run.id,
      state,
      reason: print?.reason ?? task?.error ?? null,
      printId: done?.id ?? null,
      readings,
      findings: this.#findings(row, read),
      expected: Object.fromEntries(layout.patches.map((patch) => [patch.id, usualColour(patch.inks, isRaw(row.kind))])),
      asked,
      variants,
      isOld: this.#isOld(row, run.id, madeOf),
      madeAt: row.made_at,
      readAt: row.read_at
    };
  }

  /** Whether the condition prints otherwise since. A strip of a docket's variants is of that docket. */
  #isOld({ kind, condition_id: conditionId, made_at: madeAt }: ChartRow, runId: number, madeOf: string | undefined): boolean {
    if (kind === 'variants') return false;
    const { conditions } = this.#needs;
    try {
      if (this.#printedThrough(runId) !== throughOf(throughNow(conditions, conditionId, kind))) return true;
    } catch (error) {
      // Its first profile is being made: there is nothing yet that it could tell of.
      if (error instanceof Problem) return true;
      throw error;
    }
    if (kind !== 'verify') return false;
    if (madeOf !== undefined) return madeOf !== conditions.madeOf(conditionId);
    return madeAt < (conditions.results(conditionId).profile?.madeAt ?? 0);
  }

  #printedThrough(runId: number): string {
    const known = this.#through.get(runId);
    if (known !== undefined) return known;
    const plan = this.#needs.db
      .prepare<[number], { curves: string; mixture: string | null }>(
        "SELECT json_extract(plan, '$.curves') AS curves, json_extract(plan, '$.mixture') AS mixture FROM run_plan WHERE run_id = ?"
      )
      .get(runId);
    const through = throughOf({
      curves: JSON.parse(plan?.curves ?? '[]') as number[][],
      ...(plan?.mixture && { mixture: JSON.parse(plan.mixture) as number[] })
    });
    if (plan) this.#through.set(runId, through);
    return through;
  }

  #findings(row: ChartRow, read: ReadPatch[]): Finding[] {
    return read.length === 0 ? [] : checkReadings(read, isRaw(row.kind));
  }
}
