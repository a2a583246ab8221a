import { createWriteStream, existsSync, readFileSync } from 'node:fs';
import { appendFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { printSeconds } from '$core/inks/drops';
import { message } from '$protocol/http';
import { JOB_STATE } from '$protocol/ipp';
import type { LyingThing } from './bed';
import type { Faults, JobTicket, LoadedMedia, MediaChange, PrinterJob, Wanted } from './job';
import { Journal } from './journal';
import type { Model } from './models';
import { Physics, TRUE_UNIT, type Unit } from './physics';
import { Press } from './press';
import { worn, type Wear } from './wear';

interface Memory {
  media: LoadedMedia;
  bed?: LyingThing[];
  /** How the media on it came there: under what key, and what was on it before. */
  change?: MediaChange;
  inkMl: number[];
  unit?: Unit;
}

/** How often a machine at work writes down how far it is. */
const KEEP_EVERY_MS = 50;

/** The media on the machine is not what a job is for. */
export class WrongMedia extends Error {
  override name = 'WrongMedia';
}

/** What a machine of an earlier version remembers. */
function olderMemory(folder: string): { state: Memory; jobs: PrinterJob[] } | undefined {
  const path = join(folder, 'state.json');
  if (!existsSync(path)) return undefined;
  const { jobs, ...state } = JSON.parse(readFileSync(path, 'utf8')) as Memory & { jobs: PrinterJob[] };
  return { state, jobs };
}

export class Printer {
  readonly jobs: PrinterJob[] = [];
  readonly faults: Faults = { mediaOut: false, inkOut: false, coverOpen: false, lostForSeconds: 0, silentForSeconds: 0 };
  readonly model: Model;
  readonly inkMl: number[];
  /** Whether what is printed on lies on the bed. */
  #isOnBed = false;
  media: LoadedMedia;
  change: MediaChange | undefined;
  unit: Unit = structuredClone(TRUE_UNIT);
  /** What lies on its bed. */
  bed: LyingThing[] = [];
  bedColour: readonly number[] = [181, 138, 58];
  /** How high the head stands over the sheet while it prints. */
  #headMm = Infinity;
  lostUntil = 0;
  silentUntil = 0;
  readonly #folder: string;
  /** How many times faster than life; Infinity for as fast as can be. */
  speedUp: number;
  readonly #kernels: WebAssembly.Module;
  readonly #journal: Journal<Memory, PrinterJob>;
  #keptAt = 0;
  #working = false;

  constructor(model: Model, folder: string, kernels: WebAssembly.Module, media: LoadedMedia, speedUp: number) {
    this.model = model;
    this.inkMl = model.inks.map(() => model.cartridgeMl);
    this.#folder = folder;
    this.#kernels = kernels;
    this.media = media;
    this.speedUp = speedUp;
    this.#journal = new Journal(folder);
    this.#remember();
  }

  /** A machine that is switched off and on again knows its roll, its inks and its jobs. */
  #remember(): void {
    const kept = this.#journal.read() ?? olderMemory(this.#folder);
    if (!kept) return;
    this.unit = kept.state.unit ?? this.unit;
    this.media = kept.state.media;
    this.bed = kept.state.bed ?? [];
    this.change = kept.state.change;
    this.inkMl.splice(0, this.inkMl.length, ...kept.state.inkMl);
    this.jobs.push(...kept.jobs);
    for (const job of this.jobs) if (job.state < JOB_STATE.cancelled) this.#abort(job, 'aborted-by-system');
    this.keep();
  }

  /** Writes down what must be known after the current fails. */
  keep(ended?: PrinterJob): void {
    const open = this.jobs.filter((job) => job.state < JOB_STATE.cancelled && job !== ended);
    const state = {
      media: this.media,
      inkMl: this.inkMl,
      unit: this.unit,
      bed: this.bed,
      ...(this.change && { change: this.change })
    };
    this.#journal.write(state, ended ? [...open, ended] : open);
    this.#keptAt = performance.now();
  }

  /** Something happens to it. @param seed the same gives the same again */
  wear(what: Wear, seed: number): Unit {
    this.unit = worn(this.unit, what, seed);
    this.keep();
    return this.unit;
  }

  #abort(job: PrinterJob, reason: string): void {
    job.state = JOB_STATE.aborted;
    job.reason = reason;
    this.keep(job);
  }

  /** Another media is put on. @param key of who does it; the same again changes nothing */
  load(media: LoadedMedia, key: string | null): MediaChange {
    if (key !== null && this.change?.key === key) return this.change;
    this.change = { key, was: this.media };
    this.media = media;
    this.keep();
    return this.change;
  }

  /** What stops the machine now, as IPP reasons. */
  get stops(): string[] {
    const stops: string[] = [];
    if (this.faults.coverOpen) stops.push('cover-open');
    if (this.faults.mediaOut || this.#isEmpty) stops.push('media-empty-error');
    if (this.bed.some(({ thicknessMm }) => thicknessMm > this.#headMm)) stops.push('zing-thing-too-high-error');
    if (this.faults.inkOut || this.inkMl.some((ml) => ml <= 0)) stops.push('marker-supply-empty-error');
    return stops;
  }

  get #isEmpty(): boolean {
    return this.model.flatbed ? !this.#isOnBed && (this.media.sheets ?? 0) <= 0 : this.media.lengthMm <= 0;
  }

  /**
   * Makes room for a job, before its plates are sent.
   *
   * @throws WrongMedia when another media is on the machine than the job is for, or too little of it
   */
  create(ticket: JobTicket): PrinterJob {
    const known = ticket.key === null ? undefined : this.jobs.find((job) => job.key === ticket.key);
    if (known) return known;
    if (ticket.media) this.#check(ticket.media);
    const id = (this.jobs.at(-1)?.id ?? 0) + 1;
    const job: PrinterJob = {
      ...ticket,
      id,
      state: JOB_STATE.held,
      reason: 'job-incoming',
      widthMm: 0,
      lengthMm: 0,
      printedMm: 0,
      seconds: 0,
      inkMl: this.model.inks.map(() => 0),
      columns: 0,
      rows: 0,
      output: join(this.#folder, `job-${id}.rgb`),
      amounts: join(this.#folder, `job-${id}.ink`),
      cellMm: { x: 0, y: 0 },
      load: 0,
      surface: this.media.surface,
      unit: this.unit
    };
    this.jobs.push(job);
    this.keep(job);
    return job;
  }

  #check(wanted: Wanted): void {
    const { name, widthMm, lengthMm, sheetMm } = this.media;
    if (name !== wanted.name) throw new WrongMedia(`${name} is loaded; the job is for ${wanted.name}.`);
    if (widthMm < wanted.widthMm - 0.5)
      throw new WrongMedia(`The media is ${widthMm} mm wide; the job needs ${Math.round(wanted.widthMm)} mm.`);
    const most = this.model.flatbed ? (sheetMm ?? 0) : lengthMm;
    if (most < wanted.lengthMm - 0.5)
      throw new WrongMedia(`${Math.round(most)} mm of media are left; the job needs ${Math.round(wanted.lengthMm)} mm.`);
  }

  /** Takes a job's plates in. @throws when they do not come whole, or are none that this machine prints */
  async accept(job: PrinterJob, document: Readable): Promise<PrinterJob> {
    const spool = join(this.#folder, `job-${job.id}.tif`);
    try {
      await pipeline(document, createWriteStream(spool));
      const press = await this.#open(spool, job);
      await press.close();
      job.widthMm = (press.plates.widthPx / press.plates.dpi.x) * 25.4;
      job.lengthMm = (press.plates.heightPx / press.plates.dpi.y) * 25.4;
      if (press.layers.length > this.model.layers)
        throw new Error(`This machine lays down ${this.model.layers} layers in one job, not ${press.layers.length}.`);
    } catch (error) {
      await rm(spool, { force: true });
      if (job.state < JOB_STATE.cancelled) this.#abort(job, 'document-format-error');
      throw new Error(message(error), { cause: error });
    }
    // It may have been cancelled while it came.
    if (job.state !== JOB_STATE.held) {
      await rm(spool, { force: true });
      return job;
    }
    job.state = JOB_STATE.pending;
    job.reason = 'none';
    this.keep(job);
    void this.#work();
    return job;
  }

  cancel(id: number): boolean {
    const job = this.jobs.find((j) => j.id === id);
    if (!job || job.state >= JOB_STATE.cancelled) return false;
    job.state = JOB_STATE.cancelled;
    job.reason = 'job-canceled-by-user';
    this.keep(job);
    return true;
  }

  async #work(): Promise<void> {
    if (this.#working) return;
    this.#working = true;
    try {
      for (let job = this.#next(); job; job = this.#next()) {
        try {
          await this.#print(job);
        } catch (error) {
          this.#abort(
            job,
            error instanceof WrongMedia ? `resources-are-not-ready: ${message(error)}` : `aborted-by-system: ${message(error)}`
          );
        }
        await rm(join(this.#folder, `job-${job.id}.tif`), { force: true });
        this.keep(job);
      }
    } finally {
      this.#working = false;
    }
  }

  #next(): PrinterJob | undefined {
    return this.jobs.find((job) => job.state === JOB_STATE.pending && job.reason === 'none');
  }

  async #print(job: PrinterJob): Promise<void> {
    // The media may have been changed since the job came.
    if (job.media) this.#check(job.media);
    job.state = JOB_STATE.processing;
    job.surface = this.media.surface;
    job.body = this.media.body;
    job.colour = this.media.colour;
    job.unit = structuredClone(this.unit);
    job.things = this.bed;
    this.#isOnBed = job.onBed ?? false;
    this.#headMm = (job.thicknessMm ?? 0) + (job.handling?.headGapMm ?? USUAL_GAP_MM);
    const press = await this.#open(join(this.#folder, `job-${job.id}.tif`), job);
    try {
      job.columns = press.columns;
      let varnishes = 0;
      job.layers = press.layers.map(({ ink }) =>
        ink === 'varnish' ? { ink, curing: job.curing?.[varnishes++] ?? 'gloss' } : { ink }
      );
      job.cellMm = { x: (press.cell / press.plates.dpi.x) * 25.4, y: (press.cell / press.plates.dpi.y) * 25.4 };
      for (const file of [job.output, job.amounts]) {
        await rm(file, { force: true });
        await appendFile(file, '');
      }
      const swathMm = this.model.speed.headMm / this.model.speed.passes;
      const rowMm = (press.cell / press.plates.dpi.y) * 25.4;
      const swathRows = Math.max(1, Math.round(swathMm / rowMm));
      const { speed } = this.model;
      const ofMode = { passes: job.passes ?? speed.passes, oneWay: job.oneWay ?? false, layers: press.layers.length };
      const swathSeconds = printSeconds(job.widthMm, speed.headMm, { ...speed, ...ofMode }) / speed.passes;
      let at = performance.now();
      for (let from = 0; from < press.rows; from += swathRows) {
        // What it stands still is no time that it prints.
        const before = performance.now();
        await this.#untilReady(job);
        at += performance.now() - before;
        if (job.state !== JOB_STATE.processing) return;
        if (from === 0) this.#takeSheet(job);
        if (this.faults.lostForSeconds > 0 && from >= press.rows / 2) {
          // Off the network and out of the job: what is printed stays printed.
          this.lostUntil = Date.now() + this.faults.lostForSeconds * 1000;
          this.faults.lostForSeconds = 0;
          this.#abort(job, 'aborted-by-system');
          return;
        }
        if (this.faults.silentForSeconds > 0 && from >= press.rows / 2) {
          this.silentUntil = Date.now() + this.faults.silentForSeconds * 1000;
          this.faults.silentForSeconds = 0;
        }
        const rows: Uint8Array[] = [];
        const amounts: Uint8Array[] = [];
        for (let row = from; row < Math.min(press.rows, from + swathRows); row++) {
          const { rgb, cells, ink } = await press.outputRow(row);
          rows.push(rgb);
          amounts.push(new Uint8Array(cells.buffer));
          ink.forEach((drops, plate) => {
            const i = this.model.inks.findIndex(({ name }) => name === press.plates.inks[plate]);
            const ml = (drops * (job.drops[i]?.[2] ?? 0)) / 1e9;
            job.inkMl[i] = (job.inkMl[i] ?? 0) + ml;
            this.inkMl[i] = Math.max(0, (this.inkMl[i] ?? 0) - ml);
          });
        }
        await appendFile(job.output, Buffer.concat(rows));
        await appendFile(job.amounts, Buffer.concat(amounts));
        job.rows += rows.length;
        const done = Math.min(job.lengthMm, job.rows * rowMm);
        this.#feed(done - job.printedMm);
        job.printedMm = done;
        job.seconds += (performance.now() - at) / 1000;
        at = performance.now();
        if (performance.now() - this.#keptAt > KEEP_EVERY_MS) this.keep(job);
        await pause(Number.isFinite(this.speedUp) ? (swathSeconds * 1000) / this.speedUp : 0);
      }
      this.#feed(job.lengthMm - job.printedMm);
      job.printedMm = job.lengthMm;
      job.state = JOB_STATE.completed;
      job.reason = 'job-completed-successfully';
    } finally {
      this.#headMm = Infinity;
      this.#isOnBed = false;
      await press.close();
    }
  }

  /** A sheet is spent once a print begins on it, however far that comes. */
  #takeSheet(job: PrinterJob): void {
    this.#isOnBed = true;
    if (this.model.flatbed && !job.onBed) this.media.sheets = Math.max(0, (this.media.sheets ?? 0) - 1);
  }

  #feed(mm: number): void {
    if (!this.model.flatbed) this.media.lengthMm = Math.max(0, this.media.lengthMm - mm);
  }

  #open(file: string, job: PrinterJob): Promise<Press> {
    const physics = (dpi: number) => {
      // Colours are laid down alike.
      job.load = (job.drops[0]?.[2] ?? 0) * dpi * dpi;
      return new Physics(job.surface, job.load, job.unit, job.black);
    };
    return Press.open(file, this.#kernels, physics, this.model.inks, job.drops, job.unit.blocked);
  }

  /** Waits while something stops the machine; the job goes on where it was. */
  async #untilReady(job: PrinterJob): Promise<void> {
    while (this.stops.length > 0 && job.state !== JOB_STATE.cancelled) {
      job.state = JOB_STATE.stopped;
      job.reason = 'printer-stopped';
      await pause(30);
    }
    if (job.state === JOB_STATE.stopped) {
      job.state = JOB_STATE.processing;
      job.reason = 'none';
    }
  }
}

/** Of a job that says nothing of it, mm. */
const USUAL_GAP_MM = 2;
const pause = (ms: number) => new Promise<void>((resolve) => (ms > 0 ? setTimeout(resolve, ms) : setImmediate(resolve)));
