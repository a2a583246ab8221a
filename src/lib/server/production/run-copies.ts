import { copyName, sumOf, type PlacedCopy } from '$core/layout/placement';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import { isDividedOtherwise } from './divided-walls';
import type { LaneChecks } from './lane-checks';
import type { Freezing } from './freezing';
import type { PlateFiles } from './plate-files';
import type { Run } from './run';
import { mustBeOpen } from './run-rules';
import type { Runs } from './run-store';

interface Needs {
  checks: LaneChecks;
  db: Db;
  events: Events;
  freezing: Freezing;
  plateFiles: PlateFiles;
  runs: Runs;
}

/** Runs of their own for some copies of a run. */
export class RunCopies {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /**
   * A run of its own for copies that are to be printed once more, with the same rule: what their dockets are now.
   *
   * @param copies as the run's layout has them
   * @returns its number
   */
  again(id: number, copies: readonly Pick<PlacedCopy, 'id' | 'copy'>[]): number {
    const { db, runs } = this.#needs;
    const run = runs.get(id);
    if (run.laneId === null) throw new Problem(409, 'Charts are printed again from their condition.');
    const wanted = new Set(copies.map(copyName));
    const found = run.layout.parts.flatMap((part) => part.copies).filter((copy) => wanted.has(copyName(copy)));
    if (found.length === 0) throw new Problem(409, 'None of these copies lies in this run any more.');
    const made = db.transaction(() => this.#ofTheirOwn(run, found))();
    this.#tell(run, made);
    return made;
  }

  /**
   * Copies that came out whole are all of a run from now on, and those that did not go into one of their own. What is printed
   * again of it is these: its plates have all, and are deleted, with the ink that they took.
   *
   * @returns the other run's number, and what deletes the plates once all is written down
   */
  divide(
    id: number,
    { printedMm, whole, missing }: { printedMm: number; whole: readonly PlacedCopy[]; missing: readonly PlacedCopy[] }
  ) {
    const { db, freezing, plateFiles, runs } = this.#needs;
    const run = runs.get(id);
    const frozen = runs.frozen(id);
    const { plates_name: name } = runs.row(id);
    const isCutAsPrinted = !runs.isCutOtherwise(id);
    const placement = runs.ripPlacement(id) ?? run.layout;
    const made = db.transaction(() => {
      const made = this.#ofTheirOwn(run, missing);
      db.prepare('DELETE FROM run_docket WHERE run_id = ? AND held = 0').run(id);
      runs.putCopies(id, run, whole);
      const isKept = new Set(whole.map(copyName));
      const parts = placement.parts.map((part) => {
        const copies = part.copies.filter((copy) => isKept.has(copyName(copy)));
        return { ...part, copies, ghosts: [], length: printedMm, usedM2: (part.usedM2 * areaOf(copies)) / areaOf(part.copies) };
      });
      const kept = { ...placement, ...sumOf(parts, run.stock) };
      runs.keepPlan(id, frozen, kept);
      db.prepare(
        `UPDATE run SET state = 'printed', plates_name = NULL, result = NULL, released_at = NULL, length_mm = ?, waste_share = ?,
           version = version + 1 WHERE id = ?`
      ).run(kept.length, kept.wasteShare, id);
      // Its dockets are fewer, and what is cut of those that stay is the same.
      const { code } = frozen;
      if (code && isCutAsPrinted) runs.keepPlan(id, { ...frozen, code: { ...code, of: freezing.cutKey(runs.get(id)) } });
      return made;
    })();
    this.#tell(run, made);
    return { made, removed: async () => void (name && (await plateFiles.remove(name))) };
  }

  #tell(run: Run, made: number): void {
    const { events } = this.#needs;
    events.changed('runs', [run.id, made]);
    events.changed('dockets', run.dockets.map((docket) => docket.id)); // prettier-ignore
  }

  /** A run of some copies of another, with its rule. @returns its number */
  #ofTheirOwn(run: Run, found: readonly PlacedCopy[]): number {
    const { checks, runs } = this.#needs;
    checks.mustTakeJig(run.rule, run.condition);
    const other = run.dockets.find((docket, i) => isDividedOtherwise(docket, run.condition, runs.entries(run.id)[i]!));
    if (other)
      throw new Problem(
        409,
        `${other.name} is divided otherwise since it was printed: a panel would not meet the others. Take the change of its wall back first, or lay all of it out anew.`
      );
    // In a jig each lies in its pocket again.
    const hasPockets = run.rule.jig !== null;
    const rule = hasPockets ? { ...run.rule, pockets: { ...run.rule.pockets, sharing: 'by hand' as const } } : run.rule;
    const spoiled = new Set(found.map(copyName));
    const loads = run.layout.parts.map((part) => part.copies.filter((copy) => spoiled.has(copyName(copy))));
    const made = runs.create(run.laneId, run.condition.id, rule);
    runs.putCopies(made, run, found);
    if (hasPockets)
      runs.pinToPockets(
        made,
        loads.filter(({ length }) => length > 0)
      );
    return made;
  }

  /**
   * Takes panels out of an open run and into one of their own, with the same rule.
   *
   * @param version of the run that they were chosen in
   * @returns the new run's number
   */
  apart(id: number, version: number, copies: readonly Pick<PlacedCopy, 'id' | 'copy'>[]): number {
    const { db, events, runs } = this.#needs;
    const run = runs.get(id);
    if (run.version !== version) throw new Problem(409, 'This run was changed in another window meanwhile. Choose the panels again.'); // prettier-ignore
    mustBeOpen(run);
    if (run.hindrance) throw new Problem(409, run.hindrance);
    const wanted = new Set(copies.map(copyName));
    const panels = new Set(run.laid.flatMap(({ id: key, panel }) => (panel ? [key] : [])));
    const all = run.layout.parts.flatMap((part) => part.copies);
    const isChosen = (copy: PlacedCopy) => panels.has(copy.id) && wanted.has(copyName(copy));
    const [chosen, rest] = [all.filter(isChosen), all.filter((copy) => !isChosen(copy))];
    if (chosen.length === 0) throw new Problem(409, 'None of these panels lies in this run any more.');
    if (rest.length === 0) throw new Problem(409, 'All that lies in this run is chosen: there would be nothing left of it.');
    const made = db.transaction(() => {
      const made = runs.create(run.laneId, run.condition.id, run.rule);
      runs.putCopies(made, run, chosen);
      // What is held back lies nowhere, and stays.
      db.prepare('DELETE FROM run_docket WHERE run_id = ? AND held = 0').run(id);
      runs.putCopies(id, run, rest);
      db.prepare("UPDATE run SET pins = '[]', version = version + 1 WHERE id = ?").run(id);
      return made;
    })();
    events.changed('runs', [id, made]);
    events.changed('dockets', run.dockets.map((docket) => docket.id)); // prettier-ignore
    return made;
  }
}

/** mm² of copies as they lie. */
const areaOf = (copies: readonly PlacedCopy[]): number => copies.reduce((sum, { width, height }) => sum + width * height, 0);
