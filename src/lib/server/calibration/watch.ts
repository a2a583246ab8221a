import type { Piscina } from 'piscina';
import { composed, correctionOf, driftOf, type Fitted } from '$core/calibration/matching';
import { CURVE_POINTS } from '$core/calibration/linearise';
import { laddersOf, ReadingError, type Measured } from '$core/calibration/ladders';
import { CgatsError, readCgats, writeCgats } from '$core/colour/cgats';
import type { Inks } from '$core/colour/separation';
import type { Chart } from '$lib/calibration';
import { WORTH_CORRECTING, type BaselineRoll, type DriftRead, type WatchState } from '$lib/watch';
import type { Conditions } from '../conditions/conditions';
import type { MatchFit } from '../conditions/workers/profile';
import type { Machines } from '../machines/machines';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import { asMeasured, MOST_BASELINE_PATCHES, type Baseline, type Baselines } from '../conditions/baselines';
import { throughOf } from './chart-curves';
import type { Charts } from './charts';

interface Needs {
  db: Db;
  events: Events;
  conditions: Conditions;
  machines: Machines;
  charts: Charts;
  baselines: Baselines;
  colourPool: Piscina;
}

interface DriftRow {
  id: number;
  chart_id: number;
  baseline_id: number;
  mean: number;
  p95: number;
  worst: number;
  document: string;
  match_id: number | null;
  made_of: string;
  made_at: number;
}

type DriftDocument = Pick<DriftRead, 'worstId' | 'channels' | 'short' | 'predicted' | 'byCurves'> & {
  patches: WatchState['patches'];
  /** By channel 256 values: what is to be printed, with what was corrected before. */
  tables: number[][];
  /** What goes before them; nothing where curves do. */
  mixture?: number[];
  /** What it was printed through. */
  through: string;
};

/** Figures of a table that are kept. */
const KEPT = 1e5;

/** Watching a condition: its baseline, what it prints later, and what brings it back. */
export class Watch {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  state(conditionId: number): WatchState {
    const { db, conditions, charts, baselines } = this.#needs;
    const { machineId } = conditions.get(conditionId);
    const baseline = baselines.of(conditionId);
    const { match } = conditions.results(conditionId);
    const inForce = match && !match.stale ? match.id : null;
    const madeOf = conditions.madeOf(conditionId);
    const isOfNow = (row: DriftRow) => row.match_id === inForce && row.made_of === madeOf;
    const rows = db
      .prepare<[number, number], DriftRow>('SELECT * FROM drift WHERE condition_id = ? AND baseline_id = ? ORDER BY id')
      .all(conditionId, baseline?.id ?? 0);
    const drifts = rows.map((row): DriftRead => {
      const { worstId, channels, short, predicted, byCurves } = JSON.parse(row.document) as DriftDocument;
      return {
        id: row.id,
        isOfNow: isOfNow(row),
        chartId: row.chart_id,
        at: row.made_at,
        mean: row.mean,
        p95: row.p95,
        worst: row.worst,
        worstId,
        channels,
        short,
        // Readings of before it was foretold have none.
        predicted: predicted ?? null,
        byCurves: byCurves ?? null
      };
    });
    const last = rows.findLast(isOfNow);
    const all = charts.of(conditionId);
    return {
      baseline: baseline
        ? {
            id: baseline.id,
            origin: baseline.origin,
            patches: baseline.patches.length,
            at: baseline.madeAt,
            machine: baseline.machine,
            media: baseline.media,
            mode: baseline.mode,
            roll: baseline.roll ?? null,
            isOld: baseline.madeOf !== madeOf
          }
        : null,
      drifts,
      patches: last ? (JSON.parse(last.document) as DriftDocument).patches : [],
      notes: db
        .prepare<[number], { id: number; what: string; at: number }>(
          'SELECT id, what, made_at AS at FROM machine_note WHERE machine_id = ? ORDER BY id'
        )
        .all(machineId),
      isCorrected: inForce !== null,
      charts: {
        baseline: all.find(({ kind }) => kind === 'baseline') ?? null,
        compare: all.find(({ kind }) => kind === 'compare') ?? null
      }
    };
  }

  /** Keeps what was read of a chart as what later readings are held against. @throws Problem where it is not read whole */
  keepBaseline(conditionId: number, chartId: number): void {
    const { charts, conditions, machines } = this.#needs;
    const chart = charts.get(chartId);
    if (chart.conditionId !== conditionId || (chart.kind !== 'baseline' && chart.kind !== 'compare'))
      throw new Problem(422, `Chart C${chartId} is no baseline of this condition.`);
    charts.mustBeOfNow(chart);
    const loaded = machines.get(conditions.get(conditionId).machineId).printer?.media;
    const roll = loaded ? { widthMm: loaded.widthMm, lengthMm: loaded.lengthMm } : null;
    this.#keep(conditionId, `chart C${chartId}`, this.#read(chart), roll);
  }

  /** Another condition's baseline as the aim of this one. */
  adopt(conditionId: number, from: number): void {
    const { baselines, conditions } = this.#needs;
    const other = baselines.of(from);
    const { machine, media } = conditions.get(from);
    if (!other) throw new Problem(409, `${machine} on ${media} has no baseline yet. Make one there first.`);
    this.#keep(conditionId, `as ${machine} prints on ${media}`, asMeasured(other));
  }

  /** Takes a baseline from CGATS text. @throws Problem where it has no inks, or no whole ladders */
  load(conditionId: number, text: string): void {
    let patches;
    try {
      ({ patches } = readCgats(text));
    } catch (error) {
      throw new Problem(422, error instanceof CgatsError ? error.message : 'This file cannot be read.');
    }
    if (patches.length > MOST_BASELINE_PATCHES)
      throw new Problem(422, `The file has ${patches.length} patches; ${MOST_BASELINE_PATCHES} are the most of a baseline.`);
    const measured = patches.flatMap(({ id, inks, lab }): Measured[] =>
      inks ? [{ patch: { id, inks: inks.map((v) => Math.round(v * 255) / 255) as Inks }, lab }] : []
    );
    if (measured.length < patches.length)
      throw new Problem(422, 'The file does not say of which inks its patches are (CMYK_C, CMYK_M, CMYK_Y, CMYK_K).');
    if (new Set(measured.map(({ patch }) => patch.id)).size < measured.length)
      throw new Problem(422, 'Two patches of the file have the same name.');
    this.#keep(conditionId, 'a file', measured);
  }

  /** The baseline as CGATS. */
  file(conditionId: number): string {
    const baseline = this.#baseline(conditionId);
    const { machine, media, mode, madeAt, patches } = baseline;
    return writeCgats({
      head: {
        ORIGINATOR: 'Zing Mast',
        DESCRIPTOR: `Baseline: ${machine}, ${media}, ${mode}`,
        CREATED: new Date(madeAt).toISOString(),
        MEASUREMENT_SOURCE: 'Illumination=D50 ObserverAngle=2'
      },
      patches
    });
  }

  /** Holds what was read of a chart against the baseline. @throws Problem where it is another chart, or not read whole */
  async compare(conditionId: number, chartId: number): Promise<void> {
    const { db, events, charts, conditions, baselines, colourPool } = this.#needs;
    const baseline = this.#baseline(conditionId);
    const chart = charts.get(chartId);
    if (chart.conditionId !== conditionId || chart.kind !== 'compare')
      throw new Problem(422, `Chart C${chartId} is not for comparing this condition.`);
    const read = this.#read(chart);
    charts.mustBeOfNow(chart);
    const through = throughOf(conditions.colour(conditionId));
    const before = asMeasured(baseline);
    const [drift, correction] = said(() => [driftOf(before, read), correctionOf(before, read)] as const);
    const fit: MatchFit = { correction, baseline: before, now: read, leaves: WORTH_CORRECTING };
    const fitted = (await colourPool.run(fit, { name: 'fitMatch' })) as Fitted | null;
    if (baselines.of(conditionId)?.id !== baseline.id || through !== throughOf(conditions.colour(conditionId)))
      throw new Problem(409, 'The condition was changed while this was worked out. Compare it again.');
    const found = fitted ?? correction;
    // What it was printed through goes before.
    const { match } = conditions.results(conditionId);
    const inForce = match && !match.stale ? match : undefined;
    const whole = composed(inForce?.document ?? STRAIGHT, found);
    const { channels, worstId, patches, mean, p95, worst } = drift;
    const document: DriftDocument = {
      channels,
      worstId,
      patches,
      short: correction.short,
      predicted: fitted?.predicted ?? null,
      byCurves: fitted?.byCurves ?? null,
      ...whole,
      tables: whole.tables.map((table) => table.map((v) => Math.round(v * KEPT) / KEPT)),
      through
    };
    db.prepare(
      `INSERT INTO drift (baseline_id, condition_id, chart_id, mean, p95, worst, document, match_id, made_of, made_at)
       VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT (chart_id) DO UPDATE SET
       mean = excluded.mean, p95 = excluded.p95, worst = excluded.worst, document = excluded.document,
       match_id = excluded.match_id, made_of = excluded.made_of`
    ).run(
      baseline.id,
      conditionId,
      chartId,
      mean,
      p95,
      worst,
      JSON.stringify(document),
      inForce?.id ?? null,
      conditions.madeOf(conditionId),
      Date.now()
    );
    events.tell('condition changed', conditionId);
    events.changed('conditions');
  }

  /** Prints through what brings the condition back; going back to the state before undoes it. */
  correct(conditionId: number, driftId: number): void {
    const { db, conditions } = this.#needs;
    const row = db
      .prepare<[number, number], DriftRow>('SELECT * FROM drift WHERE id = ? AND condition_id = ?')
      .get(driftId, conditionId);
    if (!row) throw new Problem(404, 'There is no such reading.');
    const { tables, mixture, short, through } = JSON.parse(row.document) as DriftDocument;
    if (through !== throughOf(conditions.colour(conditionId)))
      throw new Problem(409, 'The condition was changed since this was read. Compare it again first.');
    const { mean, p95, worst } = row;
    conditions.keep(
      conditionId,
      'match',
      { tables, mixture, short, before: { mean, p95, worst } },
      row.chart_id,
      `Brought back to its baseline, from ΔE00 ${mean.toFixed(2)} in the mean`
    );
  }

  /** What was done to a condition's machine. */
  note(conditionId: number, what: string): void {
    const { db, events, conditions } = this.#needs;
    db.prepare('INSERT INTO machine_note (machine_id, what, made_at) VALUES (?, ?, ?)').run(
      conditions.get(conditionId).machineId,
      what,
      Date.now()
    );
    events.changed('conditions');
  }

  /** What was noted by mistake reminds nobody. */
  takeOutNote(conditionId: number, noteId: number): void {
    const { db, events, conditions } = this.#needs;
    const { changes } = db
      .prepare('DELETE FROM machine_note WHERE id = ? AND machine_id = ?')
      .run(noteId, conditions.get(conditionId).machineId);
    if (changes === 0) throw new Problem(404, 'There is no such note of its machine any more.');
    events.changed('conditions');
  }

  #baseline(conditionId: number): Baseline {
    const baseline = this.#needs.baselines.of(conditionId);
    if (!baseline) throw new Problem(409, 'This condition has no baseline yet. Print and read one first.');
    return baseline;
  }

  #read(chart: Chart): Measured[] {
    const unread = chart.layout.patches.filter(({ id }) => !chart.readings[id]);
    if (unread.length > 0)
      throw new Problem(
        409,
        `${unread.length} of ${chart.layout.patches.length} patches of chart C${chart.id} are not read yet.`
      );
    const wrong = chart.findings[0];
    if (wrong) throw new Problem(422, wrong.text);
    return chart.layout.patches.map(({ id, inks }) => ({ patch: { id, inks }, lab: chart.readings[id]! }));
  }

  #keep(conditionId: number, origin: string, measured: Measured[], roll: BaselineRoll | null = null): void {
    const { events, conditions, baselines } = this.#needs;
    said(() => laddersOf(measured));
    const { machine, media, mode } = conditions.get(conditionId);
    baselines.keep(conditionId, origin, conditions.madeOf(conditionId), {
      patches: measured.map(({ patch, lab }) => ({ ...patch, lab })),
      machine,
      media,
      mode: mode.name,
      roll
    });
    events.tell('condition changed', conditionId);
    events.changed('conditions');
  }
}

/** What changes nothing. */
const STRAIGHT = { tables: [0, 1, 2, 3].map(() => Array.from({ length: CURVE_POINTS }, (_, v) => v / (CURVE_POINTS - 1))) };

/** What readings are in the way of, in their words. */
function said<T>(work: () => T): T {
  try {
    return work();
  } catch (error) {
    if (error instanceof ReadingError) throw new Problem(422, error.message);
    throw error;
  }
}
