import { LRUCache } from 'lru-cache';
import {
  pinOf,
  sumOf,
  type Pin as PlacedPin,
  type PlacedCopy,
  type Placement,
  type Stock,
  type StockJig
} from '$core/layout/placement';
import { dealt, inReadingOrder } from '$core/layout/dealing';
import { pieceOf } from '$core/layout/pieces';
import type { ListPage, ListQuery } from '$lib/listing';
import { sizedFor, stockOf } from '$lib/run-pieces';
import type { RunRule, RunState } from '$lib/run-rule';
import type { Condition } from '../conditions/condition';
import type { Conditions } from '../conditions/conditions';
import type { Docket, Dockets } from '../dockets/dockets';
import type { PreparedDockets } from '../dockets/prepared-dockets';
import { freshNumber } from '../platform/db/fresh-number';
import type { Db } from '../platform/db/open';
import type { Events, News } from '../platform/events';
import { pageOf } from '../platform/listing';
import { Problem } from '../platform/problem';
import type { TaskRunner } from '../platform/tasks/runner';
import { layoutRequest, type Freezing } from './freezing';
import { thaw, type FrozenRun } from './frozen-run';
import type { Placements } from './placements';
import type { PlateFiles } from './plate-files';
import type { RipFiles } from './rip';
import { divisionOf, wallHindrance } from './divided-walls';
import { resultOf, ruleOf, type Run, type RunDocketRow, type RunRow, type RunSize } from './run';
import { RUN_LIST, type RunLine, type RunLineRow } from './run-list';
import type { Jigs } from '../machines/jigs';
import { panelsIn, piecesOf, putPart } from './run-parts';
import { fitsOn, forOther, isForLane } from './run-rules';

/** Its rows, with how often it came out whole: one that went on after it broke off did once, one that is kept in part too. */
const RUN =
  "SELECT *, (SELECT count(*) FROM print p WHERE p.run_id = run.id AND (p.state = 'done' OR p.kept_mm IS NOT NULL)) AS came FROM run";

interface Needs {
  db: Db;
  events: Events;
  tasks: TaskRunner;
  conditions: Conditions;
  dockets: Dockets;
  preparedDockets: PreparedDockets;
  placements: Placements;
  freezing: Freezing;
  plateFiles: PlateFiles;
  jigs: Jigs;
}

/** A layout as it was RIPped, and on what. */
export type KeptPlacement = Placement & { stock?: Stock };
/** Layouts of RIPped runs that are at hand. */
const MOST_PLACEMENTS = 200;
/** Two figures each. */
const MOST_SIZES = 5000;

/** Runs as they are kept: dockets of a lane with a rule, and how far they are. */
export class Runs {
  readonly #needs: Needs;
  readonly #placements = new LRUCache<number, KeptPlacement>({ max: MOST_PLACEMENTS });
  readonly #sizes = new LRUCache<number, RunSize>({ max: MOST_SIZES });

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.events.on('pockets renumbered', (news) => this.#renumber(news));
  }

  /** Runs as a list asks for them. */
  list(query: ListQuery, from: number): ListPage<RunLine> {
    const page = pageOf<RunLineRow>(this.#needs.db, RUN_LIST, query, from);
    return { ...page, rows: page.rows.map((row) => this.#toLine(row)) };
  }

  /** What lies in the lanes: all that is not printed, and of each lane the newest two that are. */
  inLanes(): number[] {
    return this.#needs.db
      .prepare<[], number>(
        `SELECT id FROM run WHERE chart_id IS NULL AND (state != 'printed' OR id IN (
           SELECT id FROM run r WHERE chart_id IS NULL AND state = 'printed' AND lane_id IN (SELECT id FROM lane)
             AND id >= (SELECT coalesce(min(id), 0) FROM (
               SELECT id FROM run s WHERE s.chart_id IS NULL AND s.state = 'printed' AND s.lane_id = r.lane_id ORDER BY id DESC LIMIT 2))
         )) ORDER BY id DESC`
      )
      .pluck()
      .all();
  }

  /** Those that are not printed. */
  open(): Run[] {
    return this.#needs.db
      .prepare<[], RunRow>(`${RUN} WHERE chart_id IS NULL AND state != 'printed' ORDER BY id`)
      .all()
      .map((row) => this.#toRun(row));
  }

  /** Of a run in a jig the one that is laid into it next; nothing where none waits for it. */
  nextLoad({ id, laneId, rule }: Pick<Run, 'id' | 'laneId' | 'rule'>): number | undefined {
    if (rule.jig === null) return undefined;
    return this.#needs.db
      .prepare<[number | null, number, number], number>(
        `SELECT id FROM run WHERE lane_id = ? AND json_extract(rule, '$.jig') = ? AND id != ? AND state IN ('ripping', 'ripped')
         ORDER BY released_at IS NULL, id LIMIT 1`
      )
      .pluck()
      .get(laneId, rule.jig, id);
  }

  get(id: number): Run {
    return this.#toRun(this.row(id));
  }

  /** The chart that a run prints; none for a run of dockets. */
  chartOf(id: number): number | null {
    return this.row(id).chart_id;
  }

  frozen(id: number): FrozenRun {
    this.row(id);
    const plan = this.#needs.db.prepare<[number], string>('SELECT plan FROM run_plan WHERE run_id = ?').pluck().get(id);
    if (plan === undefined) throw new Problem(409, 'This run has not been RIPped.');
    return thaw(plan);
  }

  /**
   * How large a run was RIPped. It is asked for whenever a machine says something, and the plan of a long run takes its time to
   * be read.
   *
   * @throws Problem where it was not
   */
  frozenSize(id: number): RunSize {
    const known = this.#sizes.get(id);
    if (known) return known;
    const { widthMm, lengthMm } = this.frozen(id).plan;
    const size = { widthMm, lengthMm };
    this.#sizes.set(id, size);
    return size;
  }

  /** Writes down what a run is RIPped from, and how it lies; as before where that is not said. */
  keepPlan(id: number, frozen: FrozenRun, placement?: KeptPlacement): void {
    this.#needs.db
      .prepare(
        `INSERT INTO run_plan (run_id, plan, placement) VALUES (?, ?, ?)
           ON CONFLICT (run_id) DO UPDATE SET plan = excluded.plan, placement = coalesce(excluded.placement, placement)`
      )
      .run(id, JSON.stringify(frozen), placement ? JSON.stringify(placement) : null);
    this.#placements.delete(id);
    this.#sizes.delete(id);
  }

  /** How a run lay when it was RIPped; nothing where it was not. Long runs have thousands of copies: it is read once. */
  ripPlacement(id: number): KeptPlacement | undefined {
    const known = this.#placements.get(id);
    if (known) return known;
    const text = this.#needs.db
      .prepare<[number], string | null>('SELECT placement FROM run_plan WHERE run_id = ?')
      .pluck()
      .get(id);
    const placement = text ? (JSON.parse(text) as KeptPlacement) : undefined;
    if (placement) this.#placements.set(id, placement);
    return placement;
  }

  /** What its plates are called; nothing while it has none. */
  platesName(id: number): string | null {
    return this.row(id).plates_name;
  }

  /** The plate file and its overview, which exist once a run is RIPped. */
  plates(id: number): RipFiles {
    const { plates_name: name } = this.row(id);
    if (!name) throw new Problem(409, 'This run has not been RIPped.');
    return this.#needs.plateFiles.paths(name);
  }

  /** @returns its number. @throws Problem 409 where its machine, media or condition was put away: nobody would see it in a lane */
  create(laneId: number | null, conditionId: number, rule: RunRule): number {
    const { db } = this.#needs;
    const { away, machine, media } = this.#needs.conditions.get(conditionId);
    const why = {
      machine: `${machine} was put away, so that nothing is printed on its ${media}. Choose other media, or bring it back under Shop.`,
      media: `${media} was put away. Choose other media, or bring it back under Media.`,
      condition: `Its condition of ${media} on ${machine} was put away. Choose other media, or bring it back under Colour.`
    };
    if (away !== null) throw new Problem(409, why[away]);
    const id = freshNumber(db, 'run');
    db.prepare("INSERT INTO run (id, lane_id, condition_id, rule, state, added_at) VALUES (?, ?, ?, ?, 'laying out', ?)").run(
      id,
      laneId,
      conditionId,
      JSON.stringify(rule),
      Date.now()
    );
    return id;
  }

  /** Writes down which copies of a run’s dockets another run has: their records as they are dealt out again to the same places. */
  putCopies(
    id: number,
    { dockets, entries, rule, condition }: Pick<Run, 'dockets' | 'entries' | 'rule' | 'condition'>,
    copies: readonly PlacedCopy[]
  ): void {
    entries.forEach(({ docketId, first }, i) => {
      const own = copies.filter((copy) => pieceOf(copy.id).docket === String(docketId));
      if (own.length === 0) return;
      const records = (rule.jig === null ? inReadingOrder(own).map((place) => own[place]!) : byCopy(own)).flatMap(
        ({ record }) => record ?? []
      );
      const wall = dockets.find((docket) => docket.id === docketId && docket.choices.wall !== null);
      putPart(this.#needs.db, id, docketId, i + 1, {
        copies: own.length,
        first: first + own.reduce((least, { copy }) => Math.min(least, copy), Infinity),
        held: 0,
        records: records.length > 0 ? JSON.stringify(records) : null,
        pieces: wall ? panelsOf(own) : null,
        division: wall ? divisionOf(wall, condition) : null
      });
    });
  }

  /** Writes down how a run's walls are divided as it is RIPped. */
  keepDivisions({ id, dockets, condition }: Pick<Run, 'id' | 'dockets' | 'condition'>): void {
    const put = this.#needs.db.prepare('UPDATE run_docket SET division = ? WHERE run_id = ? AND docket_id = ?');
    for (const docket of dockets) if (docket.choices.wall) put.run(divisionOf(docket, condition), id, docket.id);
  }

  /**
   * Pins copies of one load to the pockets that they have, by the numbers that they get in the run they are put into.
   *
   * @param loads copies of each load of that run
   */
  pinToPockets(id: number, loads: readonly (readonly PlacedCopy[])[]): void {
    const next = new Map<string, number>();
    const numbered = new Map<PlacedCopy, number>();
    for (const copy of byCopy(loads.flat())) {
      const number = next.get(copy.id) ?? 0;
      next.set(copy.id, number + 1);
      numbered.set(copy, number);
    }
    const pins = loads.flatMap((load, part) =>
      load.map((copy): PlacedPin => ({ ...pinOf(copy, part), copy: numbered.get(copy) ?? 0 }))
    );
    this.#needs.db.prepare('UPDATE run SET pins = ? WHERE id = ?').run(JSON.stringify(pins), id);
  }

  /** What was put into a pocket by hand stays in that place of its jig; where that is filled no more it has none of its own. */
  #renumber({ jigId, numbers }: News['pockets renumbered']): void {
    const { db } = this.#needs;
    const rows = db
      .prepare<[number], { id: number; pins: string }>(
        "SELECT id, pins FROM run WHERE json_extract(rule, '$.jig') = ? AND state != 'printed' AND pins != '[]'"
      )
      .all(jigId);
    for (const { id, pins } of rows) {
      const now = (JSON.parse(pins) as PlacedPin[]).flatMap((pin) => {
        if (pin.pocket === undefined) return [pin];
        const pocket = numbers.get(pin.pocket);
        return pocket === undefined ? [] : [{ ...pin, pocket }];
      });
      db.prepare('UPDATE run SET pins = ?, version = version + 1 WHERE id = ?').run(JSON.stringify(now), id);
    }
  }

  setState(id: number, state: RunState): void {
    this.#needs.db.prepare('UPDATE run SET state = ? WHERE id = ?').run(state, id);
    this.#needs.events.changed('runs', [id]);
  }

  entries(id: number): RunDocketRow[] {
    return this.#needs.db
      .prepare<[number], RunDocketRow>(
        'SELECT docket_id, copies, first, held, records, pieces, division FROM run_docket WHERE run_id = ? ORDER BY position'
      )
      .all(id);
  }

  /** Nothing where it is gone. */
  find(id: number): Run | undefined {
    const row = this.#needs.db.prepare<[number], RunRow>(`${RUN} WHERE id = ?`).get(id);
    return row && this.#toRun(row);
  }

  row(id: number): RunRow {
    const row = this.#needs.db.prepare<[number], RunRow>(`${RUN} WHERE id = ?`).get(id);
    if (!row) throw new Problem(404, 'There is no such run.');
    return row;
  }

  /** Another one each time that the run is changed, or a docket of it. */
  stamp(id: number): string {
    const { version } = this.row(id);
    const dockets = this.#needs.db
      .prepare<[number], string>(
        `SELECT format('%d.%d %d+%d %d %d %s', d.id, d.version, e.first, e.copies, e.held, length(e.records), e.pieces)
           FROM run_docket e JOIN docket d ON d.id = e.docket_id WHERE e.run_id = ? ORDER BY e.position`
      )
      .pluck()
      .all(id);
    return [version, ...dockets].join(', ');
  }

  /** Whether its dockets have another size, page or cut lines than when its plates were made. */
  isCutOtherwise(id: number): boolean {
    const { of } = this.frozen(id).code ?? {};
    return of !== undefined && this.#needs.freezing.cutKey(this.get(id)) !== of;
  }

  #isStale(run: Run, row: RunRow): boolean {
    if (!row.result || run.state !== 'ripped' || row.chart_id !== null) return false;
    // What is held back goes into a run of its own by a RIP: printed as it is, it would count as printed.
    if (run.entries.some(({ held }) => held)) return true;
    try {
      const stock = this.ripPlacement(row.id)?.stock;
      // Plates for a narrower roll or smaller sheet print on a larger one as they are.
      return (
        this.#needs.freezing.planKey({ ...run, stock: stock && fitsOn(stock, run.stock) ? stock : run.stock }) !== row.plan_key
      );
    } catch {
      return true;
    }
  }

  /** What a line of a list does not have from the database: how an open run lies now. */
  #toLine({ pictures, parts, times, onSheets, ...row }: RunLineRow): RunLine {
    const line = {
      ...row,
      pictures: JSON.parse(pictures) as RunLine['pictures'],
      sheets: onSheets === 1 && parts !== null ? parts * times : null,
      stale: false
    };
    if (row.state !== 'laying out' && row.state !== 'ripped') return line;
    const { layout, stale, stock } = this.get(row.id);
    return {
      ...line,
      stale,
      lengthMm: layout.length,
      wasteShare: layout.wasteShare,
      sheets: stock.kind === 'sheet' ? layout.parts.length * times : null
    };
  }

  /** How it was laid out last, for lists to be sorted by. */
  #note(id: number, { length, wasteShare, parts }: Placement): void {
    this.#needs.db
      .prepare(
        'UPDATE run SET length_mm = @length, waste_share = @wasteShare, parts = @parts WHERE id = @id AND (length_mm, waste_share, parts) IS NOT (@length, @wasteShare, @parts)'
      )
      .run({ id, length, wasteShare, parts: parts.length });
  }

  /** What it is printed on, and its jig as that is kept. What was printed in a jig stays as it was, whatever became of the jig. */
  #stockOf(row: RunRow, condition: Condition, rule: RunRule): { stock: Stock; jig?: StockJig } {
    if (rule.jig === null) return { stock: stockOf(condition, rule) };
    const kept = row.state === 'printed' ? this.ripPlacement(row.id)?.stock : undefined;
    if (kept) return { stock: kept };
    const jig = this.#needs.jigs.stock(rule.jig);
    return { stock: stockOf(condition, rule, jig), jig };
  }

  /** Why a docket that is not held back cannot be printed on what the run prints on; nothing where all can. */
  #straying(dockets: readonly Docket[], entries: readonly RunDocketRow[], condition: Condition): string | null {
    const known = new Map<number, Condition>();
    for (const [i, { name, choices }] of dockets.entries()) {
      const { conditionId: id } = choices;
      if (id === condition.id || entries[i]!.held === 1) continue;
      if (id !== null && !known.has(id)) known.set(id, this.#needs.conditions.get(id));
      const own = id === null ? undefined : known.get(id);
      if (!isForLane(own, condition)) return forOther(name, own, condition);
    }
    return null;
  }

  #toRun(row: RunRow): Run {
    const { dockets, conditions, tasks, placements, preparedDockets } = this.#needs;
    const entries = this.entries(row.id);
    const condition = conditions.get(row.condition_id);
    const rule = ruleOf(row.rule);
    const list = entries.map((entry) => dockets.get(entry.docket_id));
    const { stock, jig } = this.#stockOf(row, condition, rule);
    const pieces = list.flatMap((docket, i) => {
      const entry = entries[i] as RunDocketRow;
      if (entry.held) return [];
      return piecesOf(docket, entry, {
        condition,
        contour: preparedDockets.contour(docket),
        series: preparedDockets.series(docket)
      });
    });
    const laid = sizedFor(stock, rule, pieces);
    const open: Run = {
      id: row.id,
      state: row.state,
      rule,
      version: row.version,
      laneId: row.lane_id,
      condition,
      stock,
      jig: jig ?? null,
      dockets: list,
      entries: entries.map((entry) => ({
        docketId: entry.docket_id,
        copies: entry.copies,
        first: entry.first,
        held: entry.held === 1,
        pieces: panelsIn(entry)
      })),
      laid,
      pins: JSON.parse(row.pins) as PlacedPin[],
      layout: sumOf([], stock),
      provisional: false,
      releasedAt: row.released_at,
      byHand: row.by_hand === 1,
      times: row.times,
      came: row.came,
      hasPlates: row.plates_name !== null,
      result: row.result ? resultOf(row.result) : null,
      stale: false,
      task: tasks.latest('rip', row.id) ?? null,
      hindrance:
        row.state === 'printed' ? null : (wallHindrance(list, entries, condition) ?? this.#straying(list, entries, condition))
    };
    if (row.chart_id !== null) return open;
    const run = { ...open, stale: this.#isStale(open, row) };
    const kept = row.state === 'laying out' || run.stale ? undefined : this.ripPlacement(row.id);
    if (kept) return { ...run, layout: kept };
    const laidOut = placements.now(run.id, layoutRequest(run));
    if (!laidOut.provisional) this.#note(run.id, laidOut.layout);
    return { ...run, ...laidOut, layout: dealt(laidOut.layout, laid) };
  }
}

const byCopy = (copies: readonly PlacedCopy[]): PlacedCopy[] => [...copies].sort((p, q) => p.copy - q.copy);

/** How many copies of which pieces. */
function panelsOf(copies: readonly PlacedCopy[]): string {
  const counts = new Map<number, number>();
  for (const { id } of copies) {
    const { piece } = pieceOf(id);
    counts.set(piece, (counts.get(piece) ?? 0) + 1);
  }
  return JSON.stringify([...counts]);
}
