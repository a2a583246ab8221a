import { createWriteStream, existsSync, readFileSync } from 'node:fs';
import { appendFile, readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Kernels } from '$core/kernels/kernels';
import type { Triple } from '$core/colour/lab';
import { printSeconds } from '$core/inks/drops';
import type { DropVolumes } from '$core/inks/drops';
import { PROCESS_CHANNELS } from '$core/inks/ink-set';
import { JOB_STATE } from '$protocol/ipp';
import { message } from '$protocol/http';
import type { Handling, Surface } from '$core/media/card';
import { Journal } from './journal';
import type { Model } from './models';
import { Physics, TRUE_UNIT, type Unit } from './physics';
import { Press } from './press';

export interface LoadedMedia {
  name: string;
  surface: Surface;
  widthMm: number;
  /** Left on the roll. */
  lengthMm: number;
  /** On a flatbed: how long a sheet is, and how many are left. */
  sheetMm?: number | undefined;
  sheets?: number | undefined;
}

export interface MediaChange {
  key: string | null;
  was: LoadedMedia;
}

export interface Faults {
  mediaOut: boolean;
  inkOut: boolean;
  coverOpen: boolean;
  /** The machine goes off the network when half of the next job is printed, for this many seconds, and drops the job. */
  lostForSeconds: number;
  /** The same, but that it prints on: it answers nobody meanwhile. */
  silentForSeconds: number;
}

/** What a job says of the media that it is for. */
export interface Wanted {
  name: string;
  widthMm: number;
  lengthMm: number;
}

/** What a program says of a job before it sends the plates. */
export interface JobTicket {
  name: string;
  /** The sender's own name for it: asked for again, it is the same job. */
  key: string | null;
  /** By ink, what the plates were made for. */
  drops: DropVolumes[];
  handling: Handling | null;
  media: Wanted | null;
}

export interface PrinterJob {
  id: number;
  name: string;
  key: string | null;
  media: Wanted | null;
  state: number;
  reason: string;
  widthMm: number;
  lengthMm: number;
  printedMm: number;
  /** How long it has printed. */
  seconds: number;
  inkMl: number[];
  columns: number;
  rows: number;
  output: string;
  /** Mean amounts of ink of every cell of the output: what an instrument sees. */
  amounts: string;
  /** mm of a cell; ink of a full drop on every pixel, pl an inch². */
  cellMm: { x: number; y: number };
  load: number;
  surface: Surface;
  /** How the machine was when it printed. */
  unit: Unit;
  /** By ink, what the plates were made for. */
  drops: DropVolumes[];
  /** How the media was set to be treated; nothing where it was not said. */
  handling: Handling | null;
}

interface Memory {
  media: LoadedMedia;
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
  media: LoadedMedia;
  change: MediaChange | undefined;
  unit: Unit = structuredClone(TRUE_UNIT);
  lostUntil = 0;
  silentUntil = 0;
  readonly #folder: string;
  /** How many times faster than life; Infinity for as fast as can be. */
  speedUp: number;
  readonly #kernels: Kernels;
  readonly #journal: Journal<Memory, PrinterJob>;
  #keptAt = 0;
  #working = false;

  constructor(model: Model, folder: string, kernels: WebAssembly.Module, media: LoadedMedia, speedUp: number) {
    this.model = model;
    this.inkMl = model.inks.map(() => model.cartridgeMl);
    this.#folder = folder;
    this.#kernels = new Kernels(kernels);
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
    this.change = kept.state.change;
    this.inkMl.splice(0, this.inkMl.length, ...kept.state.inkMl);
    this.jobs.push(...kept.jobs);
    for (const job of this.jobs) if (job.state < JOB_STATE.cancelled) this.#abort(job, 'aborted-by-system');
    this.keep();
  }

  /** Writes down what must be known after the current fails. */
  keep(ended?: PrinterJob): void {
    const open = this.jobs.filter((job) => job.state < JOB_STATE.cancelled && job !== ended);
    const state = { media: this.media, inkMl: this.inkMl, unit: this.unit, ...(this.change && { change: this.change }) };
    this.#journal.write(state, ended ? [...open, ended] : open);
    this.#keptAt = performance.now();
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
    if (this.faults.inkOut || this.inkMl.some((ml) => ml <= 0)) stops.push('marker-supply-empty-error');
    return stops;
  }

  get #isEmpty(): boolean {
    return this.model.flatbed ? (this.media.sheets ?? 0) <= 0 : this.media.lengthMm <= 0;
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
      const names = this.model.inks.map(({ name }) => name);
      if (press.plates.inks.join() !== names.join())
        throw new Error(`This machine prints ${names.join(', ')}, not ${press.plates.inks.join(', ')}.`);
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
    job.unit = structuredClone(this.unit);
    const press = await this.#open(join(this.#folder, `job-${job.id}.tif`), job);
    try {
      job.columns = press.columns;
      job.cellMm = { x: (press.cell / press.plates.dpi.x) * 25.4, y: (press.cell / press.plates.dpi.y) * 25.4 };
      for (const file of [job.output, job.amounts]) {
        await rm(file, { force: true });
        await appendFile(file, '');
      }
      const swathMm = this.model.speed.headMm / this.model.speed.passes;
      const rowMm = (press.cell / press.plates.dpi.y) * 25.4;
      const swathRows = Math.max(1, Math.round(swathMm / rowMm));
      const swathSeconds = printSeconds(job.widthMm, swathMm, this.model.speed);
      let at = performance.now();
      for (let from = 0; from < press.rows; from += swathRows) {
        await this.#untilReady(job);
        if (job.state !== JOB_STATE.processing) return;
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
          const { rgb, means, ink } = await press.outputRow(row);
          rows.push(rgb);
          amounts.push(new Uint8Array(means.buffer));
          ink.forEach((drops, i) => {
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
      if (this.model.flatbed) this.media.sheets = Math.max(0, (this.media.sheets ?? 0) - 1);
      job.printedMm = job.lengthMm;
      job.state = JOB_STATE.completed;
      job.reason = 'job-completed-successfully';
    } finally {
      await press.close();
    }
  }

  #feed(mm: number): void {
    if (!this.model.flatbed) this.media.lengthMm = Math.max(0, this.media.lengthMm - mm);
  }

  #open(file: string, job: PrinterJob): Promise<Press> {
    const physics = (dpi: number) => {
      // Colours are laid down alike.
      job.load = (job.drops[0]?.[2] ?? 0) * dpi * dpi;
      return new Physics(job.surface, job.load, job.unit);
    };
    return Press.open(file, this.#kernels, physics, this.model.inks, job.drops);
  }

  /**
   * The colour at places of what was printed, as an aperture sees it: the mean of the cells in its square.
   *
   * @param places mm from the left edge and the start of the print
   * @returns XYZ of each, Y = 1 for the perfect reflector
   */
  async look(job: PrinterJob, places: readonly { x: number; y: number }[], apertureMm: number): Promise<Triple[]> {
    const bytes = await readFile(job.amounts);
    const amounts = new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2);
    const channels = PROCESS_CHANNELS.length;
    const rows = Math.floor(amounts.length / channels / job.columns);
    const physics = new Physics(job.surface, job.load, job.unit);
    return places.map(({ x, y }) => {
      const from = (v: number, cell: number) => Math.max(0, Math.round((v - apertureMm / 2) / cell));
      const to = (v: number, cell: number, most: number) => Math.min(most, Math.round((v + apertureMm / 2) / cell));
      const sums = PROCESS_CHANNELS.map(() => 0);
      let count = 0;
      for (let row = from(y, job.cellMm.y); row < to(y, job.cellMm.y, rows); row++) {
        for (let column = from(x, job.cellMm.x); column < to(x, job.cellMm.x, job.columns); column++, count++) {
          const at = (row * job.columns + column) * channels;
          for (let i = 0; i < channels; i++) sums[i] = sums[i]! + amounts[at + i]!;
        }
      }
      // Beside the print is bare media.
      return physics.xyz(sums.map((sum) => (count > 0 ? sum / count / 65535 : 0)));
    });
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

const pause = (ms: number) => new Promise<void>((resolve) => (ms > 0 ? setTimeout(resolve, ms) : setImmediate(resolve)));
