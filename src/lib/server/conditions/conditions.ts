import { corrected } from '$core/calibration/matching';
import { MediaCard } from '$core/media/card';
import { PrintMode } from '$core/media/modes';
import { channelsByInk, fullDropByInk, type Press } from '$core/media/press';
import type { InkLimits } from '$core/colour/separation';
import { isPlainTone, sameTone, Tone } from '$core/colour/tone';
import { pricesByLayer, pricesOf } from '$core/inks/ink-prices';
import { fourInks, InkSet } from '$core/inks/ink-set';
import { RESTS_ON, STEPS, type ResultIds, type ResultStep, type StepDocuments, type StepResult } from '$lib/calibration';
import type { WatchSummary } from '$lib/watch';
import { Problem } from '../platform/problem';
import type { Colour, Condition, ConditionRow } from './condition';
import { markStale, sizeOf, type Summary } from './condition-rules';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { FileStore } from '../platform/files';
import { InkPrices, type Machines } from '../machines/machines';
import { frozen, parsedOnce } from '../platform/parsed-once';
import { KeptResults } from './kept-results';

interface Needs {
  db: Db;
  events: Events;
  files: FileStore;
  machines: Machines;
}

/** Printing conditions: machine + media + print mode, each with what was found by climbing its steps. */
export class Conditions {
  readonly #needs: Needs;
  readonly #kept: KeptResults;
  readonly #backs = new WeakMap<object, { of: number[][]; made: number[][] }>();

  constructor(needs: Needs) {
    this.#needs = needs;
    this.#kept = new KeptResults(needs.db);
  }

  /** Those that something can be printed in: neither they nor their machines and media were put away. */
  list(): Condition[] {
    return this.#needs.db
      .prepare<[], ConditionRow>(`${SELECT} WHERE m.away = 0 AND d.away = 0 AND c.away = 0 ORDER BY c.id`)
      .all()
      .map((row) => this.#toCondition(row));
  }

  /** Those that were put away, of the machines and media that the shop has. */
  away(): Pick<Condition, 'id' | 'machine' | 'media' | 'mode'>[] {
    return this.#needs.db
      .prepare<[], ConditionRow>(`${SELECT} WHERE m.away = 0 AND d.away = 0 AND c.away = 1 ORDER BY d.name, c.id`)
      .all()
      .map((row) => ({ id: row.id, machine: row.machine, media: row.media, mode: modeOf(row.mode) }));
  }

  get(id: number): Condition {
    return this.#toCondition(this.row(id));
  }

  /** The results that count now, by step. */
  results(id: number): { [S in ResultStep]?: StepResult<S> } {
    const found = this.#kept.heads(id).map((head): StepResult => {
      const { restsOn, document } = this.#kept.found(head);
      const { step, chartId, madeAt } = head;
      return { id: head.id, step, chartId, madeAt, restsOn, stale: false, document };
    });
    markStale(found);
    return Object.fromEntries(found.map((result) => [result.step, result])) as { [S in ResultStep]?: StepResult<S> };
  }

  result<S extends ResultStep>(id: number, step: S): StepDocuments[S] | undefined {
    const head = this.#kept.heads(id).find((one) => one.step === step);
    return head && (this.#kept.found(head).document as StepDocuments[S]);
  }

  /** The same without the readings' figures. */
  #summary(id: number): Partial<Record<ResultStep, Summary>> {
    const found = this.#kept
      .heads(id)
      .map((head): Summary => ({ step: head.step, id: head.id, madeAt: head.madeAt, stale: false, ...this.#kept.brief(head) }));
    markStale(found);
    return Object.fromEntries(found.map((one) => [one.step, one]));
  }

  /** Keeps a result and makes it count. */
  keep<S extends ResultStep>(
    id: number,
    step: S,
    document: StepDocuments[S],
    chartId: number | null,
    what: string
  ): StepResult<S> {
    const { db } = this.#needs;
    const ids = this.#ids(id);
    const restsOn = Object.fromEntries(RESTS_ON[step].flatMap((on) => (ids[on] === undefined ? [] : [[on, ids[on]]])));
    const at = Date.now();
    db.transaction(() => {
      const { lastInsertRowid } = db
        .prepare('INSERT INTO condition_result (condition_id, step, chart_id, document, made_at) VALUES (?, ?, ?, ?, ?)')
        .run(id, step, chartId, JSON.stringify({ ...document, restsOn }), at);
      const next: ResultIds = { ...ids, [step]: Number(lastInsertRowid) };
      // A check of ladders belongs to the linearisation that it checked.
      if (step === 'linear') delete next['linear check'];
      this.#newState(id, next, what);
    })();
    this.#changed(id);
    return this.results(id)[step] as StepResult<S>;
  }

  /** A result that was found in another shop; it counts once the state is settled. @returns its number */
  bring(id: number, step: ResultStep, document: object, restsOn: ResultIds, madeAt: number): number {
    return Number(
      this.#needs.db
        .prepare('INSERT INTO condition_result (condition_id, step, chart_id, document, made_at) VALUES (?, ?, NULL, ?, ?)')
        .run(id, step, JSON.stringify({ ...document, restsOn }), madeAt).lastInsertRowid
    );
  }

  settle(id: number, results: ResultIds, what: string): void {
    this.#needs.db.transaction(() => this.#newState(id, results, what))();
    this.#changed(id);
  }

  states(id: number): { seq: number; what: string; madeAt: number; current: boolean }[] {
    const { seq: current } = this.row(id);
    return this.#needs.db
      .prepare<[number], { seq: number; what: string; made_at: number }>(
        'SELECT seq, what, made_at FROM condition_state WHERE condition_id = ? ORDER BY seq DESC'
      )
      .all(id)
      .map(({ seq, what, made_at: madeAt }) => ({ seq, what, madeAt, current: seq === current }));
  }

  /** Goes back, or forth again, to a state that the condition was in. */
  goTo(id: number, seq: number): void {
    if (!this.states(id).some((state) => state.seq === seq)) throw new Problem(404, 'There is no such earlier state.');
    this.#needs.db.prepare('UPDATE condition SET seq = ? WHERE id = ?').run(seq, id);
    this.#changed(id);
  }

  /** What the RIP uses. @throws Problem while the first profile is being made */
  colour(id: number): Colour {
    const results = this.results(id);
    const { machine, media } = this.row(id);
    const { start, linear, profile, match } = results;
    // What the machine says of its colour holds for its own curves alone.
    const curves = profile ? (linear ?? start)?.document.curves : start?.document.curves;
    const profileHash = (profile ?? start)?.document.hash;
    if (!profileHash || !curves)
      throw new Problem(409, `The profile of ${machine} on ${media} is still being built. It takes a few seconds.`);
    // What brought it back holds for what it was found with.
    const isBack = match !== undefined && !match.stale;
    const back = isBack ? match.document : undefined;
    return { curves: back ? this.#back(curves, back) : curves, plain: curves, mixture: back?.mixture, profileHash };
  }

  /** Curves with what brings them back; those of one finding are kept. */
  #back(curves: number[][], found: StepDocuments['match']): number[][] {
    const known = this.#backs.get(found);
    if (known?.of === curves) return known.made;
    const made = frozen(corrected(curves, found.tables));
    this.#backs.set(found, { of: curves, made });
    return made;
  }

  /** Tells which curves and profile count, by their results: readings of others tell nothing of these. */
  madeOf(id: number): string {
    return madeOf(this.#ids(id));
  }

  /** What a condition takes of ink as it prints. */
  inkLimits(id: number): InkLimits {
    const limits = this.result(id, 'total')?.limits ?? { total: this.get(id).mode.limits.total };
    return { ...limits, amounts: this.colour(id).curves };
  }

  /** The curves that dockets are printed through on it, after their own. */
  tone(id: number): Tone {
    const document = this.result(id, 'tone');
    return document ? Tone.parse(document.tone) : {};
  }

  /** Sets its curves; the state before is gone back to as from any step. */
  setTone(id: number, tone: Tone): void {
    if (sameTone(tone, this.tone(id))) return;
    const what = isPlainTone(tone) ? 'Tone curves taken away' : 'Tone curves set';
    this.keep(id, 'tone', { tone }, null, what);
  }

  /** What charts are printed through: the linearisation, as soon as there is one. */
  curves(id: number): number[][] {
    return this.result(id, 'linear')?.curves ?? this.colour(id).curves;
  }

  profilePath(id: number): string {
    return this.#needs.files.path(this.colour(id).profileHash);
  }

  /** What it prints with: its machine's inks, laid down as its print mode says. */
  inks(id: number): InkSet {
    const { machineId, mode } = this.get(id);
    return this.#needs.machines.inks(machineId, mode.drops);
  }

  #changed(id: number): void {
    const { events } = this.#needs;
    events.tell('condition changed', id);
    events.changed('conditions');
  }

  #ids(id: number): ResultIds {
    return Object.fromEntries(this.#kept.heads(id).map((head) => [head.step, head.id]));
  }

  #newState(id: number, results: ResultIds, what: string): void {
    const { db } = this.#needs;
    const seq =
      (db.prepare<[number], { n: number | null }>('SELECT max(seq) AS n FROM condition_state WHERE condition_id = ?').get(id)
        ?.n ?? 0) + 1;
    db.prepare('INSERT INTO condition_state (condition_id, seq, results, what, made_at) VALUES (?, ?, ?, ?, ?)').run(
      id,
      seq,
      JSON.stringify(results),
      what,
      Date.now()
    );
    db.prepare('UPDATE condition SET seq = ? WHERE id = ?').run(seq, id);
  }

  row(id: number): ConditionRow {
    const row = this.#needs.db.prepare<[number], ConditionRow>(`${SELECT} WHERE c.id = ?`).get(id);
    if (!row) throw new Problem(404, 'There is no such printing condition.');
    return row;
  }

  #watch(id: number, summary: Partial<Record<ResultStep, Summary>>): WatchSummary {
    const { match } = summary;
    const inForce = match && !match.stale ? match : undefined;
    const now = madeOf(Object.fromEntries(Object.entries(summary).map(([step, one]) => [step, one.id])));
    const row = this.#needs.db
      .prepare<
        [number | null, string, number],
        { baseline_at: number; made_of: string; read_at: number | null; mean: number | null }
      >(
        `SELECT b.made_at AS baseline_at, b.made_of, d.made_at AS read_at, d.mean
         FROM baseline b LEFT JOIN drift d ON d.baseline_id = b.id AND d.match_id IS ? AND d.made_of = ?
         WHERE b.condition_id = ? ORDER BY b.id DESC, d.id DESC LIMIT 1`
      )
      .get(inForce?.id ?? null, now, id);
    if (!row) return { baselineAt: null, isOld: false, read: null, isBack: false };
    const { baseline_at: baselineAt, made_of: of, read_at: at, mean } = row;
    const read = at === null || mean === null ? null : { at, mean };
    const isBack = !read && inForce !== undefined && inForce.madeAt > baselineAt;
    return { baselineAt, isOld: of !== now, read, isBack };
  }

  #toCondition(row: ConditionRow): Condition {
    const card = cardOf(row.card);
    const mode = modeOf(row.mode);
    const inks = row.inks === null ? fourInks(mode.drops) : inksOf(row.inks);
    const summary = this.#summary(row.id);
    const { profile, start, total } = summary;
    const from = profile ? (profile.source ?? 'measured') : start ? 'start' : null;
    return {
      id: row.id,
      machineId: row.machine_id,
      machine: row.machine,
      mediaId: row.media_id,
      media: row.media,
      family: card.family,
      surface: card.surface,
      costPerM2: card.costPerM2,
      ...sizeOf(row, card),
      rolls: card.rolls,
      press: {
        machine: row.machine,
        channels: channelsByInk(inks),
        fullDrop: fullDropByInk(inks),
        layers: row.layers,
        media: pick(card),
        black: mode.black
      },
      mode,
      inkPrices: pricesByLayer(inks, pricesOf(inks, ownPrices(row.ink_prices))),
      away: row.machine_away ? 'machine' : row.media_away ? 'media' : row.away ? 'condition' : null,
      profile: from,
      hasProfile: from !== null,
      totalInk: total?.total ?? mode.limits.total,
      watch: this.#watch(row.id, summary),
      steps: Object.fromEntries(
        STEPS.map((step) => {
          const result = summary[step];
          return [step, { state: !result ? 'open' : result.stale ? 'stale' : 'done', madeAt: result?.madeAt ?? null }];
        })
      ) as Condition['steps']
    };
  }
}

const cardOf = parsedOnce((card) => MediaCard.parse(card));
const modeOf = parsedOnce((mode) => PrintMode.parse(mode));
const inksOf = parsedOnce((inks) => InkSet.parse(inks));
const ownPrices = parsedOnce((prices) => InkPrices.parse(prices));

/** The results that curves and profile come from, as `colour` takes them. */
const madeOf = ({ start, linear, profile }: ResultIds): string =>
  JSON.stringify([(profile === undefined ? start : (linear ?? start)) ?? null, profile ?? start ?? null]);

const pick = ({ name, body, colour, printedSide, primer, black, stack }: MediaCard): Press['media'] => ({
  name,
  body,
  colour,
  printedSide,
  primer,
  black,
  stack
});

const SELECT = `SELECT c.*, m.name AS machine, m.away AS machine_away, m.bed, m.inks, m.ink_prices, m.layers, d.name AS media, d.away AS media_away, d.card, l.width_mm, l.height_mm
  FROM condition c JOIN machine m ON m.id = c.machine_id JOIN media d ON d.id = c.media_id
  LEFT JOIN lane l ON l.machine_id = c.machine_id AND l.media_id = c.media_id`;
