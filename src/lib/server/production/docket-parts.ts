import type { RunPiece } from '$core/layout/run-piece';
import type { Condition } from '../conditions/condition';
import type { Conditions } from '../conditions/conditions';
import type { Docket, Dockets } from '../dockets/dockets';
import type { PreparedDockets } from '../dockets/prepared-dockets';
import type { Db } from '../platform/db/open';
import { Problem } from '../platform/problem';
import { divisionOf } from './divided-walls';
import type { RunDocketRow, RunRow } from './run';
import { comparedWith, isWhole, partTimes, piecesOf, restOf, together, WHOLE, type RunPart } from './run-parts';

/** A docket in a run. */
export interface PartIn extends RunPart {
  runId: number;
  state: RunRow['state'];
  /** How often the run prints it. */
  times: number;
  conditionId: number;
  held: number;
}

/** What a ticket says, held against the parts of its docket that lie in runs or are printed. */
export interface Divided {
  /** Copies that lie in no run, and copies that lie there beyond what the ticket says. */
  missing: number;
  over: number;
  isPrinted: boolean;
}

interface Needs {
  db: Db;
  conditions: Conditions;
  dockets: Dockets;
  preparedDockets: PreparedDockets;
}

/** What of a docket lies in which runs: one that was divided has parts in several. */
export class DocketParts {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** A docket in all of its runs, printed ones too. */
  of(docketId: number): PartIn[] {
    return this.#needs.db
      .prepare<[number], PartIn>(
        `SELECT e.run_id AS runId, r.state, r.times, r.condition_id AS conditionId, e.held, e.copies, e.first, e.records, e.pieces, e.division
         FROM run_docket e JOIN run r ON r.id = e.run_id WHERE e.docket_id = ? ORDER BY e.first`
      )
      .all(docketId);
  }

  /**
   * All that waits of a docket, as one part.
   *
   * @returns nothing where it is all of the docket
   * @throws Problem where it cannot be one
   */
  waiting(docketId: number): RunPart | undefined {
    const docket = this.#needs.dockets.get(docketId);
    const all = this.of(docketId);
    const waiting = all.filter(({ state }) => state !== 'printed');
    const [first] = waiting;
    if (!first || (waiting.length === 1 && first.times === 1 && isWhole(first))) return undefined;
    const parts = repeated(waiting);
    const pieces = parts.map((part) => this.#piecesIn(docket, part));
    const { missing, over } = comparedWith(this.#whole(docket, first), pieces.flat());
    // What is more than the ticket says now was divided before; beside what is printed it is meant.
    if (missing === 0 && (over === 0 || waiting.length === all.length)) return undefined;
    try {
      return together(parts, pieces, divisionOf(docket, this.#needs.conditions.get(first.conditionId)));
    } catch (error) {
      if (!(error instanceof RangeError)) throw error;
      throw new Problem(
        409,
        `${docket.name} is divided otherwise since some of its panels were put into a run of their own: they would not meet. Take it out of all but one of its runs.`
      );
    }
  }

  /** @returns nothing for a docket that lies in no run, or in one as a whole */
  divided(docketId: number): Divided | null {
    const parts = this.of(docketId);
    const [first] = parts;
    if (!first || parts.some(isWhole)) return null;
    const docket = this.#needs.dockets.get(docketId);
    const isPrinted = parts.some(({ state }) => state === 'printed');
    return { ...comparedWith(this.#whole(docket, first), this.#laid(docket, parts)), isPrinted };
  }

  /** What of a divided docket lies in no run; nothing where that is none of it. @param condition that it is to be printed on */
  rest(docket: Docket, condition: Condition): RunPart | undefined {
    const parts = this.of(docket.id);
    if (parts.some(isWhole)) return undefined;
    return restOf(this.#whole(docket, { conditionId: condition.id }), this.#laid(docket, parts), divisionOf(docket, condition));
  }

  /** Writes down what is taken out of a run: all that it was to print of it. */
  takeOut(runId: number, times: number, entry: RunDocketRow): void {
    const { copies, first, records, pieces, division } = partTimes(entry, times);
    const docketId = entry.docket_id;
    this.#needs.db
      .prepare('INSERT OR REPLACE INTO taken_out VALUES (?, ?, ?, ?, ?, ?, ?)')
      .run(runId, docketId, copies, first, records, pieces, division);
  }

  /** What was taken out of runs of a docket lies elsewhere now: nothing of it comes back. */
  forgetTakenOut(docketId: number): void {
    this.#needs.db.prepare('UPDATE taken_out SET copies = 0 WHERE docket_id = ?').run(docketId);
  }

  /** What was taken out of a run, by docket. */
  takenOut(runId: number): Map<number, RunPart> {
    const rows = this.#needs.db
      .prepare<[number], RunPart & { docket_id: number }>(
        'SELECT docket_id, copies, first, records, pieces, division FROM taken_out WHERE run_id = ?'
      )
      .all(runId);
    return new Map(rows.map(({ docket_id: docketId, ...part }) => [docketId, part]));
  }

  /**
   * A part of a docket comes back into a run that it was taken out of.
   *
   * @throws Problem where it, or all of its docket, was laid out anew meanwhile
   */
  bringBack(runId: number, docketId: number, { copies }: RunPart): void {
    const { name } = this.#needs.dockets.get(docketId);
    const other = this.of(docketId).find((part) => part.state !== 'printed' && isWhole(part));
    if (other) throw new Problem(409, `All copies of ${name} lie in run ${other.runId} by now. Take it out of there first.`);
    if (copies === 0)
      throw new Problem(
        409,
        `What was taken out of here of ${name} was laid out anew since. Its docket says what lies in no run.`
      );
    this.#needs.db.prepare('DELETE FROM taken_out WHERE run_id = ? AND docket_id = ?').run(runId, docketId);
  }

  #piecesIn(docket: Docket, part: RunPart & { conditionId: number }): RunPiece[] {
    const condition = this.#needs.conditions.get(part.conditionId);
    return piecesOf(docket, part, { condition, series: this.#needs.preparedDockets.series(docket) });
  }

  #whole = (docket: Docket, on: { conditionId: number }): RunPiece[] => this.#piecesIn(docket, { ...on, ...WHOLE });

  #laid = (docket: Docket, parts: readonly PartIn[]): RunPiece[] =>
    repeated(parts).flatMap((part) => this.#piecesIn(docket, part));
}

/** Equal sheets are one run, so many times. */
const repeated = (parts: readonly PartIn[]): PartIn[] => parts.flatMap((part) => Array.from({ length: part.times }, () => part));
