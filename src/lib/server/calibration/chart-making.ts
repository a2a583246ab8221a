import type { Piscina } from 'piscina';
import { chartFlats, layOutChart, type ChartLayout } from '$core/charts/chart-layout';
import {
  comparedPatches,
  freshPatches,
  ladder,
  profilePatches,
  totals,
  twoLadders,
  type Allowed,
  type ChartKind,
  type ColourChart,
  type Patch
} from '$core/charts/patches';
import { layOutNeighbours } from '$core/charts/neighbours';
import type { Triple } from '$core/colour/lab';
import type { Inks } from '$core/colour/separation';
import { codeFlats, textFlats } from '$core/marks/lettering';
import type { Flat } from '$core/marks/print-list';
import type { Chart, ChartRequest } from '$lib/calibration';
import { DEFAULT_RULE } from '$lib/run-rule';
import type { Condition } from '../conditions/condition';
import type { Conditions } from '../conditions/conditions';
import type { MediaCards } from '../media/cards';
import { freshNumber } from '../platform/db/fresh-number';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import type { TaskRunner } from '../platform/tasks/runner';
import type { Printing } from '../printing/printing';
import { FROZEN_VERSION, type FrozenRun } from '../production/frozen-run';
import type { Runs } from '../production/run-store';
import { throughNow } from './chart-curves';
import { within, type ChartDocument } from './chart-rules';
import type { Baselines } from '../conditions/baselines';
import type { Charts } from './charts';

interface Needs {
  db: Db;
  events: Events;
  tasks: TaskRunner;
  profilePool: Piscina;
  media: MediaCards;
  conditions: Conditions;
  runs: Runs;
  printing: Printing;
  charts: Charts;
  baselines: Baselines;
}

/** A chart, what is printed of it beside artwork, and, where it is of artwork, all that its plates depend on. */
export type LaidOut = Omit<ChartDocument, 'madeOf'> & { flats: Flat[]; frozen?: (flats: Flat[]) => FrozenRun };

/** Charts are laid out for what is known of a condition so far, and printed. */
export class ChartMaking {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** Lays a chart out and has its plates made. */
  async make(conditionId: number, request: ChartRequest): Promise<Chart> {
    const condition = this.#needs.conditions.get(conditionId);
    const { patches, asked } = await this.#patches(condition, request);
    return this.#keep(condition, request.kind, {}, (code, media) => {
      const layout = layOutChart(patches, code, media);
      const title = titleOf(request.kind, condition);
      return { layout, flats: chartFlats(layout, title, { text: textFlats, code: codeFlats }), asked };
    });
  }

  /** A chart of a named colour: its solid some times over, or its neighbours. @param patches with the colours that they are to have, under D50 */
  ofColour(
    conditionId: number,
    kind: ColourChart,
    { id, name }: { id: number; name: string },
    patches: readonly (Patch & { lab: Triple })[]
  ): Chart {
    const condition = this.#needs.conditions.get(conditionId);
    const asked = Object.fromEntries(patches.map((patch) => [patch.id, patch.lab]));
    const title = titleOf(name, condition);
    const plain = patches.map(({ id: code, inks }) => ({ id: code, inks }));
    return this.#keep(condition, kind, { colourId: id }, (code, media) => {
      if (kind === 'neighbours') return { ...layOutNeighbours(plain, code, title, media, textFlats), asked };
      const layout = layOutChart(plain, code, media);
      return { layout, flats: chartFlats(layout, title, { text: textFlats, code: codeFlats }), asked };
    });
  }

  /** Variants of a docket beside each other. @param layOut throws RangeError where they do not fit */
  ofDocket(
    conditionId: number,
    docketId: number,
    layOut: (code: string, media: { widthMm: number; marginMm: number }) => LaidOut
  ): Chart {
    return this.#keep(this.#needs.conditions.get(conditionId), 'variants', { docketId }, layOut);
  }

  #keep(
    condition: Condition,
    kind: ChartKind,
    of: { colourId?: number; docketId?: number },
    layOut: (code: string, media: { widthMm: number; marginMm: number }) => LaidOut
  ): Chart {
    const { db, tasks, events, media, runs, charts } = this.#needs;
    const marginMm = Math.max(5, media.get(condition.mediaId).card.handling[condition.mode.machine]?.marginMm ?? 5);
    const id = db.transaction(() => {
      const chartId = freshNumber(db, 'chart');
      db.prepare(
        "INSERT INTO chart (id, condition_id, kind, colour_id, docket_id, document, made_at) VALUES (?, ?, ?, ?, ?, '{}', ?)"
      ).run(chartId, condition.id, kind, of.colourId ?? null, of.docketId ?? null, Date.now());
      let made: LaidOut;
      try {
        made = layOut(`C${chartId}`, { widthMm: condition.rollWidthMm, marginMm });
      } catch (error) {
        throw new Problem(422, error instanceof RangeError ? error.message : 'This chart does not fit the media.');
      }
      const { flats, frozen, ...laid } = made;
      const document: ChartDocument = { ...laid, madeOf: this.#needs.conditions.madeOf(condition.id) };
      db.prepare('UPDATE chart SET document = ? WHERE id = ?').run(JSON.stringify(document), chartId);
      const runId = freshNumber(db, 'run');
      db.prepare("INSERT INTO run (id, condition_id, rule, state, chart_id, added_at) VALUES (?, ?, ?, 'ripping', ?, ?)").run(
        runId,
        condition.id,
        JSON.stringify(DEFAULT_RULE),
        chartId,
        Date.now()
      );
      runs.keepPlan(runId, frozen?.(flats) ?? this.#frozen(condition, kind, document.layout, flats));
      tasks.add('rip', runId);
      return chartId;
    })();
    events.changed('conditions');
    return charts.get(id);
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
    const { charts, runs, printing } = this.#needs;
    const chart = charts.get(id);
    const run = runs.get(chart.runId);
    await printing.start(chart.runId, run.condition.machineId, 1);
  }

  async #patches(condition: Condition, request: ChartRequest): Promise<{ patches: Patch[]; asked: Record<string, Triple> }> {
    const { conditions } = this.#needs;
    const results = conditions.results(condition.id);
    const need = (step: 'limits' | 'linear' | 'profile', words: string) => {
      if (!results[step]) throw new Problem(409, `${words} first: this chart is printed with what that finds.`);
    };
    if (request.kind === 'baseline') return { patches: comparedPatches(this.#allowed(condition)), asked: {} };
    if (request.kind === 'compare') {
      const baseline = this.#needs.baselines.of(condition.id);
      if (!baseline) throw new Problem(409, 'This condition has no baseline yet. Print and read one first.');
      return {
        patches: baseline.patches.map(({ id, inks }) => ({ id, inks })),
        asked: Object.fromEntries(baseline.patches.map(({ id, lab }) => [id, lab]))
      };
    }
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
        return { patches: profilePatches(request.patches, this.#allowed(condition)), asked: {} };
      case 'verify': {
        const last = results.profile?.chartId;
        const chart = last ? this.#needs.charts.get(last).layout.patches : [];
        const fresh = freshPatches(request.patches, this.#allowed(condition), chart);
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

  #frozen(condition: Condition, kind: ChartKind, layout: ChartLayout, flats: Flat[]): FrozenRun {
    const { dpi } = condition.mode;
    return {
      version: FROZEN_VERSION,
      plan: {
        widthMm: condition.rollWidthMm,
        lengthMm: layout.lengthMm,
        dpi: { x: dpi, y: dpi },
        inks: this.#needs.conditions.inks(condition.id),
        layers: [{ ink: 'colour' }],
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
      ...throughNow(this.#needs.conditions, condition.id, kind)
    };
  }

  /** Whether inks are within the limits that are known, or the mode's own. */
  #allowed({ id, mode }: Condition): Allowed {
    const { conditions } = this.#needs;
    return within(conditions.curves(id), conditions.result(id, 'total')?.limits ?? { total: mode.limits.total });
  }
}

const titleOf = (what: string, { machine, media, mode }: Condition): string => `${what} · ${machine} · ${media} · ${mode.name}`;
