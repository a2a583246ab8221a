import { randomBytes } from 'node:crypto';
import { rm } from 'node:fs/promises';
import type { Handling } from '$core/media/card';
import { printedSize } from '$core/rip/plan';
import { formatMetres } from '$core/units/length';
import { DEFAULT_KNIVES } from '$lib/model';
import type { Settings } from '../platform/settings';
import type { Print, PrintRow } from './print';
import { usageOf } from './usage';
import { cancelJob, fetchOutput, printFile, readJob, type JobStatus } from '../machines/printer-client';
import type { Machine } from '../machines/machines';
import { Problem, sentence } from '../platform/problem';
import type { Run } from '../production/run';
import { writeRest } from '../production/plates';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { FileStore } from '../platform/files';
import type { Logger } from 'pino';
import type { Machines } from '../machines/machines';
import type { MediaCards } from '../media/cards';
import type { Runs } from '../production/run-store';

const LOOK_EVERY_MS = 400;
/** How long a machine may be silent before its job is given up. */
const SILENCE_MS = Number(process.env.ZING_SILENCE_MS ?? 15_000);
const ENDED = new Set<PrintRow['state']>(['done', 'cancelled', 'failed']);

/** What IPP calls the reasons that stop a machine, for people. */
const REASONS: Record<string, string> = {
  'media-empty-error': 'The media is out. Load a roll; the print goes on by itself.',
  'marker-supply-empty-error': 'An ink is out. Change the cartridge; the print goes on by itself.',
  'cover-open': 'The cover is open. Close it; the print goes on by itself.'
};

export const reasonText = (reason: string): string => REASONS[reason] ?? `The machine says: ${reason}.`;

/** What it works with. */
interface Needs {
  db: Db;
  events: Events;
  files: FileStore;
  log: Logger;
  machines: Machines;
  media: MediaCards;
  runs: Runs;
  settings: Settings;
}

/** Sends runs to machines and watches what becomes of them. */
export class Printing {
  readonly #needs: Needs;
  readonly #watching = new Map<number, AbortController>();
  #stopped = false;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  list(runId?: number): Print[] {
    const rows =
      runId === undefined
        ? this.#needs.db.prepare<[], PrintRow>('SELECT * FROM print ORDER BY id DESC').all()
        : this.#needs.db.prepare<[number], PrintRow>('SELECT * FROM print WHERE run_id = ? ORDER BY id DESC').all(runId);
    return rows.map((row) => this.#toPrint(row));
  }

  get(id: number): Print {
    return this.#toPrint(this.#row(id));
  }

  /** Why a machine cannot print a run now; nothing when it can. */
  hindrance(run: Run, machine: Machine, times: number): string | undefined {
    const { printer } = machine;
    if (run.state !== 'ripped' && run.state !== 'printed')
      return run.state === 'printing' ? 'The run is being printed.' : 'RIP the run first.';
    if (!machine.online || !printer) return `${machine.name} does not answer. Switch it on.`;
    if (machine.id !== run.condition.machineId) return `The run is for ${run.condition.machine}.`;
    if (printer.media.name !== run.condition.media)
      return `${machine.name} has ${printer.media.name} loaded; the run is for ${run.condition.media}.`;
    const { plan } = this.#needs.runs.frozen(run.id);
    const { sheetMm } = printer.media;
    if (printer.media.widthMm < plan.widthMm - 0.5)
      return `The ${sheetMm === null ? 'roll is' : 'sheets are'} ${Math.round(printer.media.widthMm)} mm wide; the run needs ${Math.round(plan.widthMm)} mm.`;
    if (sheetMm !== null && sheetMm < plan.lengthMm - 0.5)
      return `The sheets are ${Math.round(sheetMm)} mm long; the run needs ${Math.round(plan.lengthMm)} mm.`;
    if (run.stale) return 'The layout has changed since the RIP. RIP it again.';
    if (sheetMm !== null && printer.media.sheets < times) return `${printer.media.sheets} sheets are left; ${times} are needed.`;
    const needed = plan.lengthMm * times;
    if (sheetMm === null && printer.media.lengthMm < needed)
      return `${formatMetres(printer.media.lengthMm)} are left on the roll; ${formatMetres(needed)} are needed.`;
    const stop = printer.reasons[0];
    if (stop) return reasonText(stop);
    return undefined;
  }

  /**
   * Where a print that broke off can go on: the start of the first row of copies that is not whole. Nothing where the
   * cutter needs marks around all copies, or where all or none is printed.
   */
  restFrom(print: Print): number | undefined {
    const { plan, cuts } = this.#needs.runs.frozen(print.runId);
    if (cuts.length > 0 || print.endedAt === null || print.state === 'done' || print.printedMm <= 0) return undefined;
    const open = plan.pieces
      .map((piece) => ({ top: piece.y, bottom: piece.y + printedSize(plan.sources[piece.source]!, piece.turn).height }))
      .filter(({ bottom }) => bottom > print.fromMm + print.printedMm);
    if (open.length === 0) return undefined;
    const from = Math.max(0, Math.min(...open.map(({ top }) => top)) - 5);
    return from > print.fromMm ? from : undefined;
  }

  /** Prints what an earlier print of the run left out. */
  goOn(printId: number): Print {
    const { db, runs, machines } = this.#needs;
    const before = this.get(printId);
    const from = this.restFrom(before);
    if (from === undefined) throw new Problem(409, 'This print cannot go on in the middle. Print the run again.');
    const run = runs.get(before.runId);
    const hindrance = this.hindrance(run, machines.get(before.machineId), 1);
    if (hindrance) throw new Problem(409, hindrance);
    const { plan } = runs.frozen(run.id);
    const { lastInsertRowid } = db
      .prepare("INSERT INTO print (run_id, machine_id, state, length_mm, from_mm, started_at) VALUES (?, ?, 'sending', ?, ?, ?)")
      .run(run.id, before.machineId, plan.lengthMm - from, from, Date.now());
    runs.setState(run.id, 'printing');
    void this.#printAll([Number(lastInsertRowid)]);
    return this.get(Number(lastInsertRowid));
  }

  start(runId: number, machineId: number, times: number): Print[] {
    const { db, runs, machines } = this.#needs;
    const run = runs.get(runId);
    const machine = machines.get(machineId);
    const hindrance = this.hindrance(run, machine, times);
    if (hindrance) throw new Problem(409, hindrance);
    const { plan } = runs.frozen(runId);
    const ids = db.transaction(() =>
      Array.from({ length: times }, () =>
        Number(
          db
            .prepare("INSERT INTO print (run_id, machine_id, state, length_mm, started_at) VALUES (?, ?, 'sending', ?, ?)")
            .run(runId, machineId, plan.lengthMm, Date.now()).lastInsertRowid
        )
      )
    )();
    runs.setState(runId, 'printing');
    void this.#printAll(ids);
    return ids.map((id) => this.get(id));
  }

  async cancel(id: number): Promise<void> {
    const row = this.#row(id);
    if (ENDED.has(row.state)) return;
    const machine = this.#needs.machines.get(row.machine_id);
    if (row.job !== null) await cancelJob(machine.url, row.job).catch(() => undefined);
    else this.#watching.get(id)?.abort();
    if (row.job === null) this.#end(id, 'cancelled', 'It was cancelled before anything was printed.');
  }

  async output(id: number): Promise<Buffer> {
    const row = this.#row(id);
    if (row.job === null) throw new Problem(404, 'Nothing has come out.');
    return fetchOutput(this.#needs.machines.get(row.machine_id).url, row.job);
  }

  /** Goes on watching what a stopped server was watching. */
  resume(): void {
    for (const row of this.#needs.db
      .prepare<[], PrintRow>("SELECT * FROM print WHERE state IN ('sending', 'printing', 'stopped')")
      .all()) {
      if (row.job === null)
        this.#end(row.id, 'failed', 'The server stopped while the plates were being sent. Nothing was printed; print again.');
      else void this.#watch(row.id, row.job);
    }
  }

  stop(): void {
    this.#stopped = true;
    for (const watch of this.#watching.values()) watch.abort();
  }

  async #printAll(ids: readonly number[]): Promise<void> {
    for (const id of ids) {
      if (this.#row(id).state !== 'sending') continue;
      const { machine_id: machineId, run_id: runId, from_mm: fromMm } = this.#row(id);
      const stop = new AbortController();
      this.#watching.set(id, stop);
      try {
        const whole = this.#needs.runs.plates(runId).plates;
        const rest = fromMm > 0 ? this.#needs.files.scratch() : undefined;
        if (rest) await writeRest(whole, rest, fromMm);
        const plates = rest ?? whole;
        let toldAt = 0;
        const job = await printFile(
          this.#needs.machines.get(machineId).url,
          `Run ${runId}`,
          plates,
          stop.signal,
          (share) => {
            if (Date.now() - toldAt < LOOK_EVERY_MS) return;
            toldAt = Date.now();
            this.#tell(id, share);
          },
          { inks: this.#needs.runs.frozen(runId).plan.inks, handling: this.#handling(runId) }
        );
        if (rest) await rm(rest, { force: true });
        this.#needs.db.prepare("UPDATE print SET job = ?, state = 'printing' WHERE id = ?").run(job.id, id);
        await this.#watch(id, job.id);
      } catch (error) {
        if (this.#stopped) return;
        if (!ENDED.has(this.#row(id).state))
          this.#end(id, 'failed', `The plates could not be sent: ${sentence(error)} Nothing was printed; print again.`);
      }
      // One that went wrong holds back the rest: an operator decides.
      if (this.#row(id).state !== 'done') {
        ids
          .filter((other) => this.#row(other).state === 'sending')
          .forEach((other) => this.#end(other, 'cancelled', 'An earlier one of the same run did not come through.'));
        return;
      }
    }
  }

  /** How the media's card says that this kind of machine is to treat it. */
  #handling(runId: number): Handling | undefined {
    const { condition } = this.#needs.runs.get(runId);
    return this.#needs.media.get(condition.mediaId).card.handling[condition.mode.machine];
  }

  async #watch(id: number, jobId: number): Promise<void> {
    const { db, machines, events } = this.#needs;
    const stop = this.#watching.get(id) ?? new AbortController();
    this.#watching.set(id, stop);
    let heard = Date.now();
    for (;;) {
      if (this.#stopped || stop.signal.aborted) return;
      const row = this.#row(id);
      const machine = machines.get(row.machine_id);
      let job: JobStatus | undefined;
      try {
        job = await readJob(machine.url, jobId);
        heard = Date.now();
      } catch {
        if (this.#stopped) return;
        if (Date.now() - heard > SILENCE_MS) {
          this.#end(
            id,
            'failed',
            `Contact with ${machine.name} was lost when ${formatMetres(row.printed_mm)} of ${formatMetres(row.length_mm)} were printed. Look at the machine, then print again.`
          );
          return;
        }
      }
      if (job) {
        db.prepare('UPDATE print SET printed_mm = ?, ink_ml = ? WHERE id = ?').run(job.printedMm, JSON.stringify(job.inkMl), id);
        if (job.state === 9) return this.#end(id, 'done', null);
        if (job.state === 7)
          return this.#end(
            id,
            'cancelled',
            `It was cancelled when ${formatMetres(job.printedMm)} of ${formatMetres(row.length_mm)} were printed.`
          );
        if (job.state === 8) {
          return this.#end(
            id,
            'failed',
            `${machine.name} gave the job up when ${formatMetres(job.printedMm)} of ${formatMetres(row.length_mm)} were printed. Print again.`
          );
        }
        const reason = job.state === 6 ? (machine.printer?.reasons.map(reasonText)[0] ?? 'The machine has stopped.') : null;
        db.prepare('UPDATE print SET state = ?, reason = ? WHERE id = ?').run(
          job.state === 6 ? 'stopped' : 'printing',
          reason,
          id
        );
      }
      this.#tell(id);
      if (job?.state === 6) events.changed('runs');
      await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
    }
  }

  /** Writes down how a print ended, what it took, and what is to be cut of it, all at once. */
  #end(id: number, state: PrintRow['state'], reason: string | null): void {
    const { db, runs, events } = this.#needs;
    const { run_id: runId, machine_id: machineId } = this.#row(id);
    const usage = usageOf(this.#needs, this.get(id), state === 'done');
    db.transaction(() => {
      db.prepare('UPDATE print SET state = ?, reason = ?, ended_at = ?, usage = ? WHERE id = ?').run(
        state,
        reason,
        Date.now(),
        JSON.stringify(usage),
        id
      );
      if (state === 'done' && runs.frozen(runId).cuts.length > 0) {
        const code = `CUT-${randomBytes(3).toString('hex').toUpperCase()}`;
        db.prepare("INSERT INTO cut_task (code, print_id, state, knife, added_at) VALUES (?, ?, 'waiting', ?, ?)").run(
          code,
          id,
          JSON.stringify(DEFAULT_KNIVES),
          Date.now()
        );
      }
      const open =
        db
          .prepare<[number], { n: number }>(
            "SELECT count(*) AS n FROM print WHERE run_id = ? AND state IN ('sending', 'printing', 'stopped')"
          )
          .get(runId)?.n ?? 0;
      if (open === 0) {
        const done =
          db.prepare<[number], { n: number }>("SELECT count(*) AS n FROM print WHERE run_id = ? AND state = 'done'").get(runId)
            ?.n ?? 0;
        // What went wrong waits for a person: it is not printed again by itself.
        const well = state === 'done' ? 1 : 0;
        db.prepare(
          'UPDATE run SET state = ?, released_at = CASE WHEN ? THEN released_at END, by_hand = max(by_hand, NOT ?) WHERE id = ?'
        ).run(done > 0 ? 'printed' : 'ripped', well, well, runId);
      }
    })();
    this.#watching.delete(id);
    this.#needs.log.info({ print: id, run: runId, machine: machineId, state, reason }, 'print ended');
    this.#tell(id);
    events.changed('runs');
    events.changed('cuts');
    if (runs.chartOf(runId) !== null) events.changed('conditions');
    void this.#needs.machines.lookNow().then(() => events.tell('print ended', id));
  }

  #tell(id: number, sentShare = 1): void {
    const print = this.get(id);
    // At the pace of this very print.
    const elapsed = (Date.now() - print.startedAt) / 1000;
    const seconds = print.printedMm > 0 ? (elapsed * (print.lengthMm - print.printedMm)) / print.printedMm : null;
    this.#needs.events.send({
      kind: 'print',
      print: {
        id,
        runId: print.runId,
        machineId: print.machineId,
        state: print.state,
        reason: print.reason,
        printedMm: print.printedMm,
        lengthMm: print.lengthMm,
        sentShare,
        secondsLeft: seconds
      }
    });
  }

  #row(id: number): PrintRow {
    const row = this.#needs.db.prepare<[number], PrintRow>('SELECT * FROM print WHERE id = ?').get(id);
    if (!row) throw new Problem(404, 'There is no such print.');
    return row;
  }

  #toPrint(row: PrintRow): Print {
    return {
      id: row.id,
      runId: row.run_id,
      machineId: row.machine_id,
      machine: this.#needs.machines.rows().find((machine) => machine.id === row.machine_id)?.name ?? '',
      state: row.state,
      reason: row.reason,
      lengthMm: row.length_mm,
      printedMm: row.printed_mm,
      fromMm: row.from_mm,
      inkMl: JSON.parse(row.ink_ml) as number[],
      startedAt: row.started_at,
      endedAt: row.ended_at
    };
  }
}
