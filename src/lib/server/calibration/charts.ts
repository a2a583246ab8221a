import { checkReadings, usualColour, type Finding, type ReadPatch } from '$core/charts/check-readings';
import { chartFlats, layOutChart, type ChartLayout } from '$core/charts/chart-layout';
import type { Flat } from '$core/marks/print-list';
import { codeFlats, textFlats } from '$core/marks/lettering';
import {
  freshPatches,
  ladder,
  profilePatches,
  totals,
  twoLadders,
  type Allowed,
  type ChartKind,
  type Patch
} from '$core/charts/patches';
import { CgatsError, readCgats, writeCgats } from '$core/colour/cgats';
import type { Triple } from '$core/colour/lab';
import type { Inks } from '$core/colour/separation';
import type { Chart, ChartRequest } from '$lib/calibration';
import { DEFAULT_RULE } from '$lib/model';
import type { Condition } from '../conditions/condition';
import { readStrip } from '../machines/instrument-client';
import { Problem } from '../platform/problem';
import { FROZEN_VERSION, type FrozenRun } from '../production/frozen-run';
import type { Conditions } from '../conditions/conditions';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { Machines } from '../machines/machines';
import type { MediaCards } from '../media/cards';
import type { Prints } from '../printing/print-store';
import type { Printing } from '../printing/printing';
import type { Piscina } from 'piscina';
import type { Runs } from '../production/run-store';
import type { TaskRunner } from '../platform/tasks/runner';

interface ChartRow {
  id: number;
  condition_id: number;
  kind: ChartKind;
  document: string;
  readings: string;
  read_at: number | null;
  made_at: number;
}

interface ChartDocument {
  layout: ChartLayout;
  /** Wanted colours of patches, against the media. */
  asked: Record<string, Triple>;
}

/** Ladders are printed raw, everything after them through the curves. */
const isRaw = (kind: ChartKind) => kind === 'limits' || kind === 'linear';

/** What it works with. */
interface Needs {
  conditions: Conditions;
  db: Db;
  events: Events;
  machines: Machines;
  media: MediaCards;
  printing: Printing;
  prints: Prints;
  profilePool: Piscina;
  runs: Runs;
  tasks: TaskRunner;
}

/** Charts: made, printed as runs of their own, and read. */
export class Charts {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  get(id: number): Chart {
    return this.#toChart(this.#row(id));
  }

  /** The newest chart of each kind. */
  of(conditionId: number): Chart[] {
    return this.#needs.db
      .prepare<[number], ChartRow>(
        'SELECT * FROM chart WHERE id IN (SELECT max(id) FROM chart WHERE condition_id = ? GROUP BY kind) ORDER BY id'
      )
      .all(conditionId)
      .map((row) => this.#toChart(row));
  }

  /** Lays a chart out and has its plates made. */
  async make(conditionId: number, request: ChartRequest): Promise<Chart> {
    const { db, conditions, tasks, events, media } = this.#needs;
    const condition = conditions.get(conditionId);
    const { patches, asked } = await this.#patches(condition, request);
    const marginMm = Math.max(5, media.get(condition.mediaId).card.handling[condition.mode.machine]?.marginMm ?? 5);
    const id = db.transaction(() => {
      const chartId = Number(
        db
          .prepare("INSERT INTO chart (condition_id, kind, document, made_at) VALUES (?, ?, '{}', ?)")
          .run(conditionId, request.kind, Date.now()).lastInsertRowid
      );
      let layout: ChartLayout;
      try {
        layout = layOutChart(patches, `C${chartId}`, { widthMm: condition.rollWidthMm, marginMm });
      } catch (error) {
        throw new Problem(422, error instanceof RangeError ? error.message : 'This chart does not fit the media.');
      }
      const document: ChartDocument = { layout, asked };
      db.prepare('UPDATE chart SET document = ? WHERE id = ?').run(JSON.stringify(document), chartId);
      const flats = chartFlats(layout, `${request.kind} · ${condition.machine} · ${condition.media} · ${condition.mode.name}`, {
        text: textFlats,
        code: codeFlats
      });
      const runId = Number(
        db
          .prepare("INSERT INTO run (condition_id, rule, state, plan, chart_id, added_at) VALUES (?, ?, 'ripping', ?, ?, ?)")
          .run(
            conditionId,
            JSON.stringify(DEFAULT_RULE),
            JSON.stringify(this.#frozen(condition, request.kind, layout, flats)),
            chartId,
            Date.now()
          ).lastInsertRowid
      );
      tasks.add('rip', runId);
      return chartId;
    })();
    events.changed('conditions');
    return this.get(id);
  }

  /** How long and how much a chart would be, before it is made. */
  async preview(
    conditionId: number,
    request: ChartRequest
  ): Promise<{ patches: number; pages: number; strips: number; lengthMm: number }> {
    const condition = this.#needs.conditions.get(conditionId);
    const { patches } = await this.#patches(condition, request);
    const layout = layOutChart(patches, 'C0', { widthMm: condition.rollWidthMm, marginMm: 5 });
    return { patches: patches.length, pages: layout.pages.length, strips: layout.strips, lengthMm: layout.lengthMm };
  }

  async print(id: number): Promise<void> {
    const { runs, printing } = this.#needs;
    const chart = this.get(id);
    const run = runs.get(chart.runId);
    await printing.start(chart.runId, run.condition.machineId, 1);
  }

  /**
   * Reads a strip, or one patch of it, with the instrument.
   *
   * @throws Problem when there is no print to read, or no instrument
   */
  async read(id: number, strip: number, patch?: string): Promise<Chart> {
    const { machines, db, prints } = this.#needs;
    const chart = this.get(id);
    if (chart.printId === null) throw new Problem(409, 'Print the chart first; then there is something to read.');
    const print = prints.get(chart.printId);
    const places = chart.layout.patches.filter((one) => one.strip === strip && (patch === undefined || one.id === patch));
    if (places.length === 0) throw new Problem(404, 'There is no such strip on this chart.');
    const job = db.prepare<[number], { job: number | null }>('SELECT job FROM print WHERE id = ?').get(print.id)?.job;
    if (job === null || job === undefined) throw new Problem(409, 'The machine has no print of this chart.');
    const half = chart.layout.patchMm / 2;
    const text = await readStrip(machines.instrument().url, {
      printer: machines.get(print.machineId).url,
      job,
      patchMm: chart.layout.patchMm,
      places: places.map((one) => ({ id: one.id, x: one.x + half, y: one.y + half }))
    });
    return this.#take(id, text, new Set(places.map((one) => one.id)));
  }

  /** Takes readings from a file: by the patches' names, or by their inks where names are others. */
  load(id: number, text: string): Chart {
    const chart = this.get(id);
    const known = new Set(chart.layout.patches.map((patch) => patch.id));
    return this.#take(id, text, known);
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

  /** Whether inks are within the limits that are known, or the mode's own. */
  allowed(condition: Condition): Allowed {
    const { conditions } = this.#needs;
    const curves = conditions.curves(condition.id);
    const limits = conditions.result(condition.id, 'total')?.limits ?? { total: condition.mode.limits.total };
    const ink = (inks: Readonly<Inks>, mask: number) =>
      inks.reduce((sum, v, i) => sum + ((mask >> i) & 1 ? (curves[i]![Math.round(v * 255)] ?? 0) : 0), 0);
    return (inks) =>
      ink(inks, 15) <= limits.total + 1e-9 &&
      ink(inks, 6) <= (limits.red ?? 9) &&
      ink(inks, 5) <= (limits.green ?? 9) &&
      ink(inks, 3) <= (limits.blue ?? 9);
  }

  #take(id: number, text: string, only: ReadonlySet<string>): Chart {
    const { db, events } = this.#needs;
    const row = this.#row(id);
    const { layout } = JSON.parse(row.document) as ChartDocument;
    let data;
    try {
      data = readCgats(text);
    } catch (error) {
      throw new Problem(422, error instanceof CgatsError ? error.message : 'The readings cannot be read.');
    }
    const byInks = new Map(layout.patches.map((patch) => [patch.inks.map((v) => Math.round(v * 255)).join(), patch.id]));
    const readings = JSON.parse(row.readings) as Record<string, Triple>;
    let taken = 0;
    for (const patch of data.patches) {
      const name = only.has(patch.id) ? patch.id : patch.inks && byInks.get(patch.inks.map((v) => Math.round(v * 255)).join());
      if (!name || !only.has(name)) continue;
      readings[name] = patch.lab;
      taken++;
    }
    if (taken === 0)
      throw new Problem(
        422,
        'None of the patches in this file is on the chart: neither their names nor their inks are the same.'
      );
    db.prepare('UPDATE chart SET readings = ?, read_at = ? WHERE id = ?').run(JSON.stringify(readings), Date.now(), id);
    events.changed('conditions');
    return this.get(id);
  }

  async #patches(condition: Condition, request: ChartRequest): Promise<{ patches: Patch[]; asked: Record<string, Triple> }> {
    const { conditions } = this.#needs;
    const results = conditions.results(condition.id);
    const need = (step: 'limits' | 'linear' | 'profile', words: string) => {
      if (!results[step]) throw new Problem(409, `${words} first: this chart is printed with what that finds.`);
    };
    if (request.kind !== 'limits') need('limits', 'Find the ink limits');
    if (request.kind !== 'limits' && request.kind !== 'linear') need('linear', 'Linearise');
    if (request.kind === 'verify') need('profile', 'Build or take a profile');
    switch (request.kind) {
      case 'limits':
        return { patches: ladder(21), asked: {} };
      case 'linear':
        return { patches: twoLadders(request.steps), asked: {} };
      case 'linear check':
        return { patches: twoLadders(21), asked: {} };
      case 'total':
        return { patches: totals().flatMap(({ patches }) => patches), asked: {} };
      case 'profile':
        return { patches: profilePatches(request.patches, this.allowed(condition)), asked: {} };
      case 'verify': {
        const last = results.profile?.chartId;
        const chart = last ? this.get(last).layout.patches : [];
        const fresh = freshPatches(request.patches, this.allowed(condition), chart);
        const through = (await this.#needs.profilePool.run(
          { profile: conditions.profilePath(condition.id), inks: fresh.map(({ inks }) => inks) },
          { name: 'throughProfile' }
        )) as { inks: Inks; asked: Triple }[];
        // Bare media goes with it, since colours are asked for against the media.
        const white: Patch = { id: 'V0', inks: [0, 0, 0, 0] };
        return {
          patches: [white, ...fresh.map(({ id }, i) => ({ id, inks: through[i]!.inks }))],
          asked: Object.fromEntries([['V0', [100, 0, 0]], ...fresh.map(({ id }, i) => [id, through[i]!.asked])]) as Record<
            string,
            Triple
          >
        };
      }
    }
  }

  /** The curves that a chart is printed through. */
  #curves(condition: Condition, kind: ChartKind): number[][] {
    const straight = (limit: number) => Array.from({ length: 256 }, (_, v) => (v / 255) * limit);
    if (kind === 'limits') return [1, 1, 1, 1].map(straight);
    if (kind === 'linear')
      return (this.#needs.conditions.result(condition.id, 'limits')?.channels ?? []).map(({ chosen }) => straight(chosen));
    return this.#needs.conditions.curves(condition.id);
  }

  #frozen(condition: Condition, kind: ChartKind, layout: ChartLayout, flats: Flat[]): FrozenRun {
    const { dpi } = condition.mode;
    return {
      version: FROZEN_VERSION,
      plan: {
        widthMm: condition.rollWidthMm,
        lengthMm: layout.lengthMm,
        dpi: { x: dpi, y: dpi },
        inks: this.#needs.conditions.inks(condition.id),
        // Its patches say how much ink they are to have.
        totalInk: null,
        sources: [],
        pieces: [],
        marks: [],
        flats
      },
      cuts: [],
      method: 'blue-noise',
      profile: '',
      curves: this.#curves(condition, kind)
    };
  }

  #row(id: number): ChartRow {
    const row = this.#needs.db.prepare<[number], ChartRow>('SELECT * FROM chart WHERE id = ?').get(id);
    if (!row) throw new Problem(404, 'There is no such chart.');
    return row;
  }

  #toChart(row: ChartRow): Chart {
    const { db, tasks } = this.#needs;
    const { layout, asked } = JSON.parse(row.document) as ChartDocument;
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
      madeAt: row.made_at,
      readAt: row.read_at
    };
  }

  #findings(row: ChartRow, read: ReadPatch[]): Finding[] {
    return read.length === 0 ? [] : checkReadings(read, isRaw(row.kind));
  }
}
