import { randomUUID } from 'node:crypto';
import { rm } from 'node:fs/promises';
import { setTimeout } from 'node:timers/promises';
import type { Logger } from 'pino';
import { pieceOf } from '$core/layout/pieces';
import type { PanelBatches } from '$lib/batches';
import type { Handling } from '$core/media/card';
import { isJig } from '$core/layout/placement';
import { MOST_TIMES } from '$lib/came-out';
import { layersOf } from '$core/rip/plan';
import { formatTape, type ShopUnit } from '$core/units/length';
import { JOB_STATE } from '$protocol/ipp';
import type { Machine, Machines } from '../machines/machines';
import {
  cancelJob,
  createJob,
  fetchOutput,
  findJob,
  readJob,
  Refused,
  sendPlates,
  type JobStatus,
  type OutputView
} from '../machines/printer-client';
import type { MediaCards } from '../media/cards';
import { mayPass } from '../platform/db/open';
import type { Events, ShopEvent } from '../platform/events';
import type { FileStore } from '../platform/files';
import { Problem, sentence } from '../platform/problem';
import type { Settings } from '../platform/settings';
import { writeRest } from '../production/plates';
import { ruleOf, type Run } from '../production/run';
import { timesByItself } from '../production/run-rules';
import type { Runs } from '../production/run-store';
import type { Print, PrintEnd, PrintRow } from './print';
import { endOf, hindrance, reasonText, restFrom, unsent } from './print-rules';
import type { Prints } from './print-store';

const LOOK_EVERY_MS = 400;
/** A machine that was given up is asked less often. */
const LOOK_LATER_MS = 5000;
/** How long a machine may be silent before a person is told. */
const SILENCE_MS = Number(process.env.ZING_SILENCE_MS ?? 15_000);
/** How long until an end that could not be written down is tried again. */
const WRITE_AGAIN_MS = 1000;
const EARLIER = 'An earlier one of the same run did not come through.';

interface Needs {
  events: Events;
  files: FileStore;
  log: Logger;
  machines: Machines;
  media: MediaCards;
  runs: Runs;
  prints: Prints;
  settings: Settings;
}

/**
 * Sends runs to machines and follows what becomes of them. What a machine has printed is only what it says itself: a break
 * on the way, of the line, of the server or of its disk, is never taken for an end.
 */
export class Printing {
  readonly #needs: Needs;
  /** By print: breaks its sending off. */
  readonly #sending = new Map<number, AbortController>();
  readonly #silent = new Set<number>();
  /** How long those that go on have printed, as their machines say. */
  readonly #seconds = new Map<number, number>();
  readonly #stop = new AbortController();

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  readonly #tape = (mm: number): string => formatTape(mm, this.#needs.settings.current.unit);

  /** Why a machine cannot print a run now; nothing when it can. */
  hindrance(run: Run, machine: Machine, times: number): string | undefined {
    const { runs } = this.#needs;
    const isRipped = run.state === 'ripped' || run.state === 'printed';
    return hindrance(run, isRipped ? runs.frozenSize(run.id) : undefined, machine, times, this.#needs.settings.current.unit);
  }

  /** Which batches of film other panels of a run's walls were printed from; nothing for a run without panels. */
  batches({ laid, entries, condition }: Run, { printer }: Machine): PanelBatches | undefined {
    const walls = new Set(laid.flatMap(({ id, panel }) => (panel ? [Number(pieceOf(id).docket)] : [])));
    if (walls.size === 0) return undefined;
    // One that has all of a wall has nothing to meet but itself.
    const parts = entries.filter(({ docketId, pieces }) => pieces !== null && walls.has(docketId));
    // The batch of another media is none of theirs.
    const now = printer?.media.name === condition.media ? printer.media.batch : null;
    return { before: this.#needs.prints.batchesOf(parts.map(({ docketId }) => docketId)), now };
  }

  restFrom(print: Print): number | undefined {
    const { prints, runs } = this.#needs;
    if (print.state !== 'cancelled' && print.state !== 'failed') return undefined;
    // A run that was RIPped anew has its copies elsewhere.
    if (!prints.isOfPlates(print)) return undefined;
    // A rest begins at the front of the bed: in a jig that is beside the things.
    if (ruleOf(runs.row(print.runId).rule).jig !== null) return undefined;
    return restFrom(runs.frozen(print.runId), print, prints.restsOf(print.id));
  }

  /** Prints what an earlier print of the run left out. */
  async goOn(printId: number, request: string = randomUUID()): Promise<Print> {
    const { prints, runs } = this.#needs;
    const { runId, machineId } = prints.get(printId);
    const [rest] = await this.#begin(request, runId, machineId, 1, () => {
      const from = this.restFrom(prints.get(printId));
      if (from === undefined) throw new Problem(409, 'This print cannot go on in the middle. Print the run again.');
      return { lengthMm: runs.frozenSize(runId).lengthMm - from, fromMm: from, restOf: printId };
    });
    return rest as Print;
  }

  /**
   * Prints a run. The same request is carried out once, however often it comes.
   *
   * @param times as often as it is to come out still, where that is not said; of a jig one load
   * @throws Problem when the machine cannot print it as it is now
   */
  async start(runId: number, machineId: number, times?: number, request: string = randomUUID()): Promise<Print[]> {
    const { runs } = this.#needs;
    const { lengthMm } = runs.frozenSize(runId);
    const often = times ?? Math.min(MOST_TIMES, timesByItself(runs.get(runId)));
    return this.#begin(request, runId, machineId, often, () => ({ lengthMm, fromMm: 0, restOf: null }));
  }

  /** @param partOf what of the run is printed, as it is once its machine was looked at */
  async #begin(
    request: string,
    runId: number,
    machineId: number,
    times: number,
    partOf: () => { lengthMm: number; fromMm: number; restOf: number | null }
  ): Promise<Print[]> {
    const { prints, runs, machines, events } = this.#needs;
    // What is on the machine now, not what was on it a second ago.
    await machines.look(machineId);
    const same = prints.ofRequest(request);
    if (same.length > 0) return same;
    const part = partOf();
    const machine = machines.get(machineId);
    const why = this.hindrance(runs.get(runId), machine, times);
    if (why) throw new Problem(409, why);
    const batch = machine.printer?.media.batch ?? null;
    const ids = prints.add(request, { runId, machineId, batch, ...part }, times);
    events.changed('runs', [runId]);
    void this.#printAll(ids);
    return ids.map((id) => prints.get(id));
  }

  /** Asks for a print to be cancelled; what of it was printed the machine says. */
  cancel(id: number): void {
    const { prints } = this.#needs;
    if (prints.get(id).endedAt !== null) throw new Problem(409, 'This print has ended already.');
    prints.askCancelled(id);
    this.#sending.get(id)?.abort(new Problem(409, 'it was cancelled.'));
  }

  /** Ends a print whose machine does not answer, so that the run can be printed elsewhere or again. */
  giveUp(id: number): void {
    const { prints } = this.#needs;
    const { machine, printedMm, lengthMm, endedAt, request } = prints.get(id);
    if (endedAt !== null) throw new Problem(409, 'This print has ended already.');
    if (!this.#silent.has(id)) throw new Problem(409, `${machine} answers. Cancel the print instead.`);
    prints.giveUp(
      id,
      `Given up while ${machine} did not answer: ${this.#tape(printedMm)} of ${this.#tape(lengthMm)} were printed when it was last heard. What it prints beyond that is written down when it answers.`
    );
    this.#tell(id);
    // Copies whose turn has not come would wait for it as long as the machine is silent.
    for (const { id: other } of prints.ofRequest(request))
      if (prints.row(other).job === null && !this.#sending.has(other))
        prints.end(other, { state: 'cancelled', reason: EARLIER, printedMm: 0, inkMl: [], seconds: 0 });
  }

  /** Its machine has not answered for a while. */
  isSilent(id: number): boolean {
    return this.#silent.has(id);
  }

  async output(id: number, view: OutputView = ON_WHITE): Promise<Buffer> {
    const { prints, machines } = this.#needs;
    const { job, machine_id: machineId } = prints.row(id);
    if (job === null) throw new Problem(404, 'Nothing has come out.');
    return fetchOutput(machines.get(machineId).url, job, view);
  }

  /** Goes on following what a stopped server followed. What it had not sent is not sent by itself. */
  resume(): void {
    for (const { id } of this.#needs.prints.unsettled())
      void this.#follow(id, 'the server stopped while they were on their way.');
  }

  stop(): void {
    this.#stop.abort(new Problem(503, 'The server stops.'));
    for (const sending of this.#sending.values()) sending.abort(this.#stop.signal.reason);
  }

  async #printAll(ids: readonly number[]): Promise<void> {
    const { prints } = this.#needs;
    for (const [i, id] of ids.entries()) {
      if (prints.row(id).ended_at !== null) continue;
      const why = await this.#send(id);
      await this.#follow(id, why);
      if (this.#stop.signal.aborted) return;
      if (prints.row(id).state === 'done') continue;
      // One that went wrong holds back the rest: an operator decides.
      for (const other of ids.slice(i + 1))
        await this.#end(other, { state: 'cancelled', reason: EARLIER, printedMm: 0, inkMl: [], seconds: 0 });
      return;
    }
  }

  /** Sends the plates. @returns why they did not all get there; nothing when they did */
  async #send(id: number): Promise<string | undefined> {
    const { prints, machines, runs, files, log } = this.#needs;
    const {
      machine_id: machineId,
      run_id: runId,
      from_mm: fromMm,
      length_mm: lengthMm,
      key,
      cancelled_at: cancelled
    } = prints.row(id);
    // Its turn came after a person had enough.
    if (cancelled !== null) return 'it was cancelled.';
    const sending = new AbortController();
    this.#sending.set(id, sending);
    const { signal } = sending;
    const rest = fromMm > 0 ? files.scratch() : undefined;
    try {
      const { url } = machines.get(machineId);
      const { plan } = runs.frozen(runId);
      const whole = runs.plates(runId).plates;
      if (rest) await writeRest(whole, rest, fromMm);
      const { condition, stock } = runs.get(runId);
      const job = await createJob(url, {
        key: key ?? '',
        name: `Run ${runId}`,
        inks: plan.inks,
        layers: layersOf(plan),
        black: condition.mode.black,
        mode: condition.mode,
        handling: this.#handling(condition),
        media: { name: condition.media, widthMm: plan.widthMm, lengthMm },
        thicknessMm: isJig(stock) ? stock.jig.thicknessMm : null,
        onBed: isJig(stock)
      });
      prints.setJob(id, job.id);
      let toldAt = 0;
      signal.throwIfAborted();
      await sendPlates(url, job.id, {
        path: rest ?? whole,
        signal,
        onSent: (share) => {
          if (performance.now() - toldAt < LOOK_EVERY_MS) return;
          toldAt = performance.now();
          this.#tell(id, share);
        }
      });
      return undefined;
    } catch (error) {
      if (!this.#stop.signal.aborted) log.warn({ print: id, error: sentence(error) }, 'plates were not sent whole');
      const reason: unknown = signal.aborted ? signal.reason : error;
      return reason instanceof Refused ? reason.message : sentence(reason);
    } finally {
      this.#sending.delete(id);
      if (rest) await rm(rest, { force: true });
    }
  }

  /** How the media's card says that this kind of machine is to treat it. */
  #handling({ mediaId, mode }: Run['condition']): Handling | undefined {
    return this.#needs.media.get(mediaId).card.handling[mode.machine];
  }

  /** Asks the machine how far a print is until it has ended there. @param why its plates did not get there whole */
  async #follow(id: number, why: string | undefined): Promise<void> {
    const { prints, machines, log } = this.#needs;
    const { signal } = this.#stop;
    let heard = performance.now();
    while (!signal.aborted) {
      const row = prints.row(id);
      const machine = machines.get(row.machine_id);
      try {
        const job = await this.#ask(machine.url, row);
        heard = performance.now();
        this.#silent.delete(id);
        const end = job
          ? (this.#noteJob(row, job, machine), endOf(job, row, machine.name, this.#needs.settings.current.unit, why))
          : notThere(row, machine.name, this.#needs.settings.current.unit, why);
        if (end) return await this.#end(id, end);
        if (job) await this.#steer(machine.url, row, job, why !== undefined);
      } catch (error) {
        if (signal.aborted) return;
        if (performance.now() - heard > SILENCE_MS && row.ended_at === null) this.#noteSilence(row, machine.name);
        log.debug({ print: id, error: sentence(error) }, 'a machine was not heard');
      }
      await setTimeout(row.given_up ? LOOK_LATER_MS : LOOK_EVERY_MS, undefined, { signal }).catch(() => undefined);
    }
  }

  async #ask(url: string, { job, key }: PrintRow): Promise<JobStatus | undefined> {
    if (job !== null) return readJob(url, job);
    return key === null ? undefined : findJob(url, key);
  }

  #noteJob(row: PrintRow, job: JobStatus, machine: Machine): void {
    const { prints, events } = this.#needs;
    if (row.job === null) prints.setJob(row.id, job.id);
    this.#seconds.set(row.id, job.seconds);
    const isStopped = job.state === JOB_STATE.stopped;
    const reason = isStopped ? (machine.printer?.reasons.map(reasonText)[0] ?? 'The machine has stopped.') : null;
    const state = job.state === JOB_STATE.held ? 'sending' : isStopped ? 'stopped' : 'printing';
    const isNew = prints.progress(row.id, state, reason, job.printedMm, job.inkMl);
    this.#tell(row.id);
    if (isNew && state !== row.state) events.changed('runs', [row.run_id]);
  }

  #noteSilence(row: PrintRow, machine: string): void {
    const { prints, events } = this.#needs;
    this.#silent.add(row.id);
    const reason = `${machine} does not answer. ${this.#tape(row.printed_mm)} of ${this.#tape(row.length_mm)} were printed when it was last heard; what it prints meanwhile is written down when it answers.`;
    if (!prints.progress(row.id, 'stopped', reason, row.printed_mm, JSON.parse(row.ink_ml) as number[])) return;
    this.#tell(row.id);
    events.changed('runs', [row.run_id]);
  }

  /** Has the machine let go of a job that is not wanted, or that waits for plates which do not come. */
  async #steer(url: string, row: PrintRow, job: JobStatus, isUnsent: boolean): Promise<void> {
    const waitsInVain = job.state === JOB_STATE.held && isUnsent;
    if (row.cancelled_at === null && !waitsInVain) return;
    await cancelJob(url, job.id).catch((error: unknown) => {
      // It may have ended in the same moment.
      if (!(error instanceof Refused)) throw error;
    });
  }

  /** Writes an end down, on a full disk as soon as there is room. */
  async #end(id: number, end: PrintEnd): Promise<void> {
    const { prints, log, events, machines } = this.#needs;
    for (;;) {
      try {
        prints.end(id, end);
        break;
      } catch (error) {
        if (this.#stop.signal.aborted) return;
        log.error({ print: id, error: sentence(error) }, 'the end of a print could not be written down; it is tried again');
        if (!mayPass(error)) throw error;
        await setTimeout(WRITE_AGAIN_MS);
      }
    }
    log.info({ print: id, ...end }, 'print ended');
    this.#silent.delete(id);
    this.#seconds.delete(id);
    this.#tell(id);
    await machines.look(prints.row(id).machine_id);
    events.tell('print ended', id);
  }

  /** All that go on, as browsers are told of them. */
  underWay(): PrintProgress[] {
    const { prints } = this.#needs;
    return prints
      .unsettled()
      .filter((row) => row.ended_at === null)
      .map(({ id }) => progressOf(prints.get(id), 1, this.#seconds.get(id)));
  }

  #tell(id: number, sentShare = 1): void {
    const { prints, events } = this.#needs;
    events.send({ kind: 'print', print: progressOf(prints.get(id), sentShare, this.#seconds.get(id)) });
  }
}

/** On white, as prints are mostly looked at. */
const ON_WHITE: OutputView = { from: 'front', backing: '#ffffff' };

type PrintProgress = Extract<ShopEvent, { kind: 'print' }>['print'];

/**
 * How far a print is, and how long it takes at the pace of this very print.
 *
 * @param seconds that it has printed, as its machine says: without what it stood still
 */
function progressOf(
  { id, runId, machineId, state, reason, printedMm, fromMm, lengthMm }: Print,
  sentShare: number,
  seconds: number | undefined
): PrintProgress {
  const secondsLeft = seconds && printedMm > 0 ? (seconds * (lengthMm - printedMm)) / printedMm : null;
  return { id, runId, machineId, state, reason, printedMm, fromMm, lengthMm, sentShare, secondsLeft };
}

/** The machine answers, and has no such job. */
function notThere(row: PrintRow, machine: string, unit: ShopUnit, why: string | undefined): PrintEnd {
  const rest = { printedMm: row.printed_mm, inkMl: JSON.parse(row.ink_ml) as number[], seconds: 0 };
  if (row.job !== null)
    return {
      state: 'failed',
      reason: `${machine} knows nothing of this job any more. ${formatTape(row.printed_mm, unit)} of ${formatTape(row.length_mm, unit)} were printed when it was last heard. Look at the machine first.`,
      ...rest
    };
  if (row.cancelled_at !== null) return { state: 'cancelled', reason: 'It was cancelled before anything was printed.', ...rest };
  return { state: 'failed', reason: unsent(why ?? ''), ...rest };
}
