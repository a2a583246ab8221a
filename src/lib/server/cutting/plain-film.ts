import { randomUUID } from 'node:crypto';
import { sumOf } from '$core/layout/placement';
import type { Machines } from '../machines/machines';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import type { Prints } from '../printing/print-store';
import type { Freezing } from '../production/freezing';
import type { FrozenRun } from '../production/frozen-run';
import { mustBeOpen } from '../production/run-rules';
import type { Runs } from '../production/run-store';
import type { Cuts } from './cut-store';

interface Needs {
  db: Db;
  events: Events;
  machines: Machines;
  freezing: Freezing;
  runs: Runs;
  prints: Prints;
  cuts: Cuts;
}

/** Runs that are cut out of plain film, without a print: they go through a cutter alone. */
export class PlainFilm {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /**
   * Sends the lines of a run to a cutter, as it is laid out.
   *
   * @returns the cut task
   * @throws Problem where it has no lines, or plates already
   */
  cut(runId: number, machineId?: number): number {
    const { db, events, machines, freezing, runs, prints, cuts } = this.#needs;
    const run = runs.get(runId);
    mustBeOpen(run);
    if (run.hasPlates)
      throw new Problem(409, `Run ${runId} has plates. Print it, or lay its dockets out on a run of their own and cut that.`);
    if (run.provisional) throw new Problem(409, 'The run is just being laid out. Try again in a moment.');
    const parts = run.layout.parts.filter((part) => part.copies.length > 0);
    const [part] = parts;
    if (!part || parts.length > 1)
      throw new Problem(409, `This run has ${parts.length} sheets. One at a time is cut without printing: take copies out.`);
    const frozen = freezing.freeze(run, part, new Map());
    if (frozen.toDraw?.some(({ cut }) => cut))
      throw new Problem(422, 'Lines along the lettering of records are made with their print. Print this run first.');
    if (frozen.cuts.length === 0)
      throw new Problem(422, 'Nothing of this run is cut. Give its dockets a cut line, or cut along the pieces.');
    // Nothing is printed, so that there are no marks to find and no code to read.
    const plain: FrozenRun = { ...frozen, plan: { ...frozen.plan, marks: [], flats: [], letters: [] } };
    delete plain.code;
    const cutter = machines.cutter(machineId);
    const task = db.transaction(() => {
      runs.keepPlan(runId, plain, { stock: run.stock, ...sumOf([part], run.stock) });
      const what = { runId, machineId: cutter.id, lengthMm: part.length, fromMm: 0, restOf: null };
      const [id] = prints.add(`plain film ${randomUUID()}`, what, 1);
      prints.end(id!, { state: 'done', reason: null, printedMm: part.length, inkMl: [], seconds: 0 });
      return cuts.ofRun(runId)[0]!.id;
    })();
    events.changed('cuts');
    return task;
  }
}
