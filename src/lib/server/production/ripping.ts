import { randomUUID } from 'node:crypto';
import { setImmediate } from 'node:timers/promises';
import { ArtworkError } from '$core/artwork/facts';
import { readToFinished } from '$core/artwork/preparation';
import { chain } from '$core/geometry/matrix';
import { transformPath } from '$core/geometry/path';
import { shownCode } from '$core/marks/print-code';
import { MM_PER_INCH } from '$core/units/length';
import type { Box } from '$core/geometry/box';
import { pieceToRun, planesOf, type RipPlan } from '$core/rip/plan';
import { PROCESS_CHANNELS } from '$core/inks/ink-set';
import { equalParts } from '$core/layout/equal-parts';
import { sumOf, type PlacedCopy, type Placement } from '$core/layout/placement';
import { pieceOf } from '$core/layout/pieces';
import { dealt } from '$core/layout/dealing';
import { helpsTooLarge, tooLargeInWords } from '$core/layout/too-large';
import type { Logger } from 'pino';
import type { Piscina } from 'piscina';
import type { Overlays } from '../records/overlays';
import type { SourceProfiles } from '../conditions/source-profiles';
import type { Db } from '../platform/db/open';
import type { Events, TaskProgress } from '../platform/events';
import { isDiskFull, type FileStore } from '../platform/files';
import { Problem, sentence } from '../platform/problem';
import type { Settings } from '../platform/settings';
import { KERNELS_FILE, MASK_FILE } from '../platform/tasks/pool';
import type { TaskContext, TaskRunner } from '../platform/tasks/runner';
import type { FrozenRun } from './frozen-run';
import { layoutRequest, type Freezing } from './freezing';
import type { Placements } from './placements';
import type { PlateFiles } from './plate-files';
import { ripToFile } from './rip';
import type { InkRequest, RipJob } from './rip-job';
import { mustNotBeBusy } from './run-rules';
import type { Run, RunResult } from './run';
import type { Runs } from './run-store';
import type { CodesRequest } from './workers/plates';

/** Codes are printed in the last of the channels that a profile gives, with so much white around them. */
const BLACK_CHANNEL = PROCESS_CHANNELS[3];
const CODE_WHITE_MM = 1;
/** Pixels of cameras: single drops are not told apart, and a code that one does not read another does. */
const CAMERAS_MM = [0.1, 0.07, 0.21, 0.14];

/** All four channels at their fullest. */
const UNLIMITED = 4;

interface Needs {
  db: Db;
  files: FileStore;
  events: Events;
  tasks: TaskRunner;
  log: Logger;
  ripPool: Piscina;
  platePool: Piscina;
  sources: SourceProfiles;
  placements: Placements;
  freezing: Freezing;
  overlays: Overlays;
  runs: Runs;
  plateFiles: PlateFiles;
  settings: Settings;
}

/** Of the work on a run with records: they are drawn before it is RIPped. */
const DRAWING_SHARE = 0.3;

/** From runs that are laid out to plates. */
export class Ripping {
  readonly #needs: Needs;
  /** By run: plates that may go once the end of its RIP is written down, if they are not its plates then. */
  readonly #spent = new Map<number, string[]>();

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.tasks.register('rip', {
      most: 1,
      work: (subject, context) => this.#rip(Number(subject), context),
      unfinished: (subject) => this.#layOutAgain(Number(subject)),
      told: (subject) => this.#wasRipped(Number(subject))
    });
  }

  async rip(id: number, { release = false, fullM2 = 0 } = {}): Promise<TaskProgress> {
    const { db, tasks, events, runs, freezing } = this.#needs;
    const before = runs.get(id);
    mustNotBeBusy(before);
    const asItWas = runs.stamp(id);
    const mustBeAsItWas = () => {
      mustNotBeBusy(runs.row(id));
      if (runs.stamp(id) !== asItWas) throw new Problem(409, 'The run was changed while it was laid out. RIP it again.');
    };
    const layout = dealt(await this.#settled(before), before.laid);
    const used = layout.parts.filter((part) => part.copies.length > 0);
    const records = freezing.records(before, used);
    // A run of many dockets takes its time to be looked at: others have their turn between.
    await setImmediate();
    mustBeAsItWas();
    const run = runs.get(id);
    const waiting = used.filter((part) => part.usedM2 < fullM2);
    const sheets = equalParts(
      used.filter((part) => part.usedM2 >= fullM2),
      run.laid,
      run.stock
    );
    if (sheets.length === 0) throw new Problem(409, 'No sheet is filled that far yet.');
    const frozen = sheets.map(({ part }) => freezing.freeze(run, part, records));
    const whole = sheets.length === 1 && sheets[0]?.times === 1 && waiting.length === 0;
    const held = run.entries.filter((entry) => entry.held);
    const stays = whole && held.length === 0;
    const key = freezing.planKey(run);
    // To write it down takes its time too.
    await setImmediate();
    mustBeAsItWas();
    // What is divided gets a key of its own, which must be of the colours that were frozen.
    if (!stays && freezing.planKey(runs.get(id)) !== key)
      throw new Problem(409, 'The colours of the run were changed while it was laid out. RIP it again.');
    const ids = db.transaction(() => {
      if (held.length > 0 || waiting.length > 0) {
        const rest = runs.create(run.laneId, run.condition.id, run.rule);
        db.prepare('UPDATE run SET times = ? WHERE id = ?').run(run.times, rest);
        if (waiting.length > 0)
          this.#keepOnly(
            run,
            rest,
            waiting.map((part) => part.copies)
          );
        for (const { docketId } of held)
          db.prepare('UPDATE run_docket SET run_id = ? WHERE run_id = ? AND docket_id = ?').run(rest, id, docketId);
      }
      return sheets.map(({ part, times }, i) => {
        const runId = i === 0 ? id : runs.create(run.laneId, run.condition.id, run.rule);
        if (!whole) this.#keepOnly(run, runId, [part.copies]);
        const laid = sumOf([part], run.stock);
        db.prepare(
          `UPDATE run SET state = 'ripping', length_mm = ?, waste_share = ?, parts = 1, times = ?,
             result = NULL, released_at = ?, version = version + 1 WHERE id = ?`
        ).run(
          laid.length,
          laid.wasteShare,
          // A run of equal sheets stays one when it is RIPped again.
          times * run.times,
          release ? Date.now() : null,
          runId
        );
        runs.keepPlan(runId, frozen[i]!, { stock: run.stock, ...laid });
        runs.keepDivisions({ ...run, id: runId });
        // A run that stays whole has the key of what was frozen; what is divided is other copies now.
        db.prepare('UPDATE run SET plan_key = ? WHERE id = ?').run(stays ? key : freezing.planKey(runs.get(runId)), runId);
        tasks.add('rip', runId);
        return runId;
      });
    })();
    events.changed('runs', ids);
    events.changed(
      'dockets',
      run.dockets.map((docket) => docket.id)
    );
    return tasks.latest('rip', ids[0] as number) as TaskProgress;
  }

  /** Lets a run print as soon as its lane is loaded and the machine is free; one that is not RIPped is RIPped first. */
  async release(id: number, { fullM2 = 0 } = {}): Promise<void> {
    const { db, events, runs } = this.#needs;
    const run = runs.get(id);
    if (run.hindrance) throw new Problem(422, run.hindrance);
    if (run.state === 'ripped' && !run.stale && fullM2 === 0 && run.entries.every((entry) => !entry.held)) {
      db.prepare('UPDATE run SET released_at = ? WHERE id = ?').run(Date.now(), id);
      events.changed('runs', [id]);
      events.tell('run released', id);
      return;
    }
    if (run.state === 'ripping') {
      db.prepare('UPDATE run SET released_at = ? WHERE id = ?').run(Date.now(), id);
      events.changed('runs', [id]);
      return;
    }
    await this.rip(id, { release: true, fullM2 });
  }

  /** Takes a release back, as long as nothing prints. */
  unrelease(id: number): void {
    const { db, runs, events } = this.#needs;
    const run = runs.get(id);
    if (run.state === 'printing') throw new Problem(409, 'The run is being printed. Cancel the print instead.');
    db.prepare('UPDATE run SET released_at = NULL, by_hand = 1 WHERE id = ?').run(id);
    events.changed('runs', [id]);
  }

  /** The layout that would be RIPped. @throws Problem when not all of it can be */
  async #settled(run: Run): Promise<Placement> {
    if (run.hindrance) throw new Problem(422, run.hindrance);
    const layout = await this.#needs.placements.get(run.id, layoutRequest(run));
    if (layout.refusal) throw new Problem(422, layout.refusal);
    const large = layout.tooLarge[0];
    if (large) {
      const { docket: of } = pieceOf(large.id);
      const docket = run.dockets.find(({ id }) => String(id) === of);
      throw new Problem(
        422,
        `${docket?.choices.wall ? 'A panel of ' : ''}${docket?.name} ${tooLargeInWords(large, this.#needs.settings.current.unit)}. ${helpsTooLarge(large)}`
      );
    }
    if (layout.parts.every((part) => part.copies.length === 0)) throw new Problem(422, 'There is nothing to print in this run.');
    return layout;
  }

  /** Writes down which copies a run has that is a part of one that was divided, by its sheets or loads. */
  #keepOnly(run: Run, runId: number, loads: readonly (readonly PlacedCopy[])[]): void {
    const { db, runs } = this.#needs;
    db.prepare('DELETE FROM run_docket WHERE run_id = ?').run(runId);
    db.prepare("UPDATE run SET pins = '[]' WHERE id = ?").run(runId);
    runs.putCopies(runId, run, loads.flat());
    if (run.rule.jig !== null && run.rule.pockets.sharing === 'by hand') runs.pinToPockets(runId, loads);
  }

  /** What threads need of a frozen run, files as paths. */
  async jobOf(name: string, frozen: FrozenRun): Promise<RipJob> {
    const { files, sources } = this.#needs;
    return {
      id: name,
      plan: {
        ...frozen.plan,
        sources: await Promise.all(
          frozen.plan.sources.map(async (source) => ({
            ...source,
            file: files.path(source.file),
            ...(source.overlays && {
              overlays: { ...source.overlays, files: source.overlays.files.map((hash) => files.path(hash)) }
            }),
            sources: await sources.paths(source.sources)
          }))
        )
      },
      profile: frozen.profile ? files.path(frozen.profile) : '',
      curves: frozen.curves,
      mixture: frozen.mixture,
      limits: { total: frozen.plan.totalInk ?? UNLIMITED, ...frozen.pairs, amounts: frozen.curves },
      kernels: KERNELS_FILE,
      mask: MASK_FILE,
      method: frozen.method
    };
  }

  /** Draws what a run's records have over their artwork, and writes down where that lies. @throws Problem for a record that cannot be printed */
  async #drawRecords(id: number, frozen: FrozenRun, { signal, progress }: TaskContext): Promise<FrozenRun> {
    if (!frozen.toDraw) return frozen;
    const { toDraw, ...rest } = frozen;
    const sources = [...rest.plan.sources];
    for (const [i, { sources: over, of, records }] of toDraw.entries()) {
      const watched = { signal, progress: (share: number) => progress((i + share) / toDraw.length) };
      const overlays = await this.#needs.overlays.pages(of, records, watched);
      for (const source of over) sources[source] = { ...sources[source]!, overlays };
    }
    const drawn = { ...rest, plan: { ...rest.plan, sources }, cuts: [...rest.cuts, ...(await this.#recordCuts(frozen, signal))] };
    this.#needs.runs.keepPlan(id, drawn);
    return drawn;
  }

  /** The lines that follow the lettering of a run's records, where its pieces lie. */
  async #recordCuts({ toDraw = [], plan }: FrozenRun, signal: AbortSignal): Promise<FrozenRun['cuts']> {
    const cuts: FrozenRun['cuts'] = [];
    for (const { of, records, cut } of toDraw) {
      if (!cut) continue;
      const lines = await this.#needs.overlays.lines(of, records, signal);
      for (const { index, docket, record, copy } of cut) {
        const piece = plan.pieces[index]!;
        const source = plan.sources[piece.source]!;
        const place = chain(readToFinished(source, source.prepare), pieceToRun(plan, piece));
        for (const { tool, path } of lines.get(record) ?? [])
          cuts.push({ docket, piece: record, copy, tool, path: transformPath(path, place) });
      }
    }
    return cuts;
  }

  /** Reads the codes of plates from their drops. @throws Problem where one is not read as it is: it would never be cut */
  async #readBack({ code, plan }: FrozenRun, plates: string, signal: AbortSignal): Promise<void> {
    if (!code) return;
    for (const box of code.boxes) {
      let isRead = false;
      for (const mm of CAMERAS_MM) isRead ||= (await this.#codesIn(plan, plates, box, mm, signal)).includes(code.text);
      if (!isRead)
        throw new Problem(
          500,
          `The code ${shownCode(code.text)} cannot be read back from the drops ${(box.y / 1000).toFixed(2)} m along the run. Choose a finer print mode, or RIP again.`
        );
    }
  }

  /** What is read in the black plate around a code by a camera with pixels of so many mm. */
  async #codesIn(plan: RipPlan, plates: string, box: Box, mm: number, signal: AbortSignal): Promise<string[]> {
    const inks = planesOf(plan).map(({ ink }) => plan.inks[ink]!);
    const shrink = Math.max(1, Math.round((plan.dpi.x * mm) / MM_PER_INCH));
    const [across, along] = [plan.dpi.x / MM_PER_INCH / shrink, plan.dpi.y / MM_PER_INCH / shrink];
    const window = {
      x: Math.floor((box.x - CODE_WHITE_MM) * across),
      y: Math.floor((box.y - CODE_WHITE_MM) * along),
      width: Math.ceil((box.width + 2 * CODE_WHITE_MM) * across),
      height: Math.ceil((box.height + 2 * CODE_WHITE_MM) * along)
    };
    const request: CodesRequest = { plates, shrink, window, inks, channel: BLACK_CHANNEL };
    return (await this.#needs.platePool.run(request, { name: 'codes', signal })) as string[];
  }

  async #rip(id: number, { signal, progress }: TaskContext): Promise<() => void> {
    const { db, ripPool, log, runs, plateFiles } = this.#needs;
    const name = `run-${id}-${randomUUID()}`;
    this.#spend(id, name);
    const startedAt = performance.now();
    try {
      const frozen = runs.frozen(id);
      // Where records are drawn first, that is the first share of the work.
      const first = frozen.toDraw ? DRAWING_SHARE : 0;
      const drawn = await this.#drawRecords(id, frozen, { signal, progress: (share) => progress(share * first) });
      const job = await this.jobOf(name, drawn);
      signal.throwIfAborted();
      const result = await ripToFile(ripPool, job, plateFiles.paths(name), signal, (share) =>
        progress(first + share * (1 - first))
      );
      await this.#readBack(drawn, plateFiles.paths(name).plates, signal);
      const inkByDocket = await this.#inkByDocket(id, job.plan, plateFiles.paths(name).coarse, signal).catch((error: unknown) => {
        signal.throwIfAborted();
        // No reason to lose plates: it is shared by area then.
        log.warn({ run: id, error: sentence(error) }, 'ink was not told docket by docket');
        return undefined;
      });
      const kept: RunResult = { ...result, ...(inkByDocket && { inkByDocket }), seconds: (performance.now() - startedAt) / 1000 };
      return () =>
        db
          .prepare("UPDATE run SET state = 'ripped', result = ?, plates_name = ? WHERE id = ?")
          .run(JSON.stringify(kept), name, id);
    } catch (error) {
      if (isDiskFull(error))
        throw new Problem(
          507,
          'The disk is full: the RIP was ended and its half-made plates were deleted. Make room and RIP again.'
        );
      if (signal.aborted || error instanceof Problem || error instanceof ArtworkError) throw error;
      log.error({ run: id, error: sentence(error) }, 'RIP failed');
      throw new Problem(
        500,
        'The RIP stopped, and the program does not know why. RIP again; if it stops again, RIP the dockets apart to find the artwork.'
      );
    }
  }

  /** What each docket of a run has of its ink; nothing for a chart. */
  async #inkByDocket(id: number, plan: RipPlan, coarse: string, signal: AbortSignal): Promise<RunResult['inkByDocket']> {
    const copies = this.#needs.runs.get(id).layout.parts[0]?.copies ?? [];
    if (copies.length === 0 || copies.length !== plan.pieces.length) return undefined;
    const dockets = [...new Set(copies.map((copy) => Number(pieceOf(copy.id).docket)))];
    const groupOf = copies.map((copy) => dockets.indexOf(Number(pieceOf(copy.id).docket)));
    const request: InkRequest = { plan, groupOf, groups: dockets.length, coarse };
    const ml = (await this.#needs.ripPool.run(request, { name: 'inkOf', signal })) as number[][];
    return Object.fromEntries(dockets.map((docket, i) => [docket, ml[i]!]));
  }

  /** The run's plates of now, and those that are made, are looked at when the RIP has ended. */
  #spend(id: number, ...names: string[]): void {
    const before = this.#needs.runs.platesName(id);
    this.#spent.set(id, [...(this.#spent.get(id) ?? []), ...names, ...(before ? [before] : [])]);
  }

  #layOutAgain(id: number): void {
    this.#spend(id);
    this.#needs.db
      .prepare(
        "UPDATE run SET state = 'laying out', result = NULL, plates_name = NULL, released_at = NULL WHERE id = ? AND state = 'ripping'"
      )
      .run(id);
  }

  #wasRipped(id: number): void {
    const { events, runs, plateFiles } = this.#needs;
    const now = runs.platesName(id);
    const spent = this.#spent.get(id) ?? [];
    this.#spent.delete(id);
    for (const name of spent) if (name !== now) void plateFiles.remove(name);
    events.changed('runs', [id]);
    events.tell('run released', id);
    if (runs.chartOf(id) !== null) events.changed('conditions');
  }
}
