import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import type { RunCopies } from '../production/run-copies';
import type { Runs } from '../production/run-store';
import { cameInPart, type CameInPart } from './came-in-part';
import type { Print } from './print';
import type { Prints } from './print-store';

interface Needs {
  db: Db;
  events: Events;
  prints: Prints;
  runCopies: RunCopies;
  runs: Runs;
}

/** Prints that broke off, of which some copies came out whole: these are kept, and the others printed in a run of their own. */
export class PartPrints {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** What of a print would be kept; nothing where it is of no use, or goes on otherwise. */
  look(print: Print): CameInPart | undefined {
    const { prints, runs } = this.#needs;
    if (print.state !== 'failed' && print.state !== 'cancelled') return undefined;
    if (print.givenUp || print.printedMm === 0 || print.restOf !== null || prints.restsOf(print.id).length > 0) return undefined;
    const { state, chart_id: chart, times, came } = runs.row(print.runId);
    if (state !== 'ripped' || chart !== null || times > 1 || came > 0 || !prints.isOfPlates(print)) return undefined;
    const run = runs.get(print.runId);
    if (run.stale) return undefined;
    const copies = run.layout.parts.flatMap((part) => part.copies);
    return cameInPart(runs.frozen(print.runId), copies, print.printedMm);
  }

  /**
   * What came out whole is all of its run from now on, and goes to the cutter if it is to be cut.
   *
   * @returns the number of the run that has the rest
   * @throws Problem where nothing of it can be kept
   */
  async keep(printId: number): Promise<number> {
    const { db, events, prints, runCopies } = this.#needs;
    const print = prints.get(printId);
    const part = this.look(print);
    if (!part)
      throw new Problem(409, 'Nothing of this print can be kept: it goes on otherwise, no copy came out whole, or its run was changed since.'); // prettier-ignore
    const { made, removed } = db.transaction(() => {
      prints.keep(print, part);
      const divided = runCopies.divide(print.runId, part);
      events.tell('print done', { printId, runId: print.runId, partMm: part.toMm });
      return divided;
    })();
    await removed();
    return made;
  }
}
