import { createWriteStream, existsSync, readFileSync } from 'node:fs';
import { appendFile, readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { xyzToSrgb, type Triple } from '$core/colour/lab';
import { stackXyz, type Ground, type View } from '$core/colour/stack-look';
import { printSeconds } from '$core/inks/drops';
import type { DropVolumes } from '$core/inks/drops';
import { PROCESS_CHANNELS } from '$core/inks/ink-set';
import type { LaidLayer } from '$core/inks/stack';
import { JOB_STATE } from '$protocol/ipp';
import { message } from '$protocol/http';
import type { Black, Body, Handling, Surface } from '$core/media/card';
import { printsOn, type LyingThing, type OnThing } from './bed';
import { Journal } from './journal';
import type { Model } from './models';
import { Physics, TRUE_UNIT, type Unit } from './physics';
import { worn, type Wear } from './wear';
import { FULL, Press } from './press';
import { glossOf, groundOf, seenLayers, type CellLayer } from './stack-look';

export interface LoadedMedia {
  name: string;
  surface: Surface;
  body?: Body | undefined;
  /** As it looks on white. */
  colour?: string | undefined;
  widthMm: number;
  /** Left on the roll. */
  lengthMm: number;
  /** On a flatbed: how long a sheet is, and how many are left. */
  sheetMm?: number | undefined;
  sheets?: number | undefined;
  /** Of a roll, as it was said when it was loaded. */
  batch?: string | undefined;
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
  /** How high what is printed on stands above the sheet; nothing where it was not said. */
  thicknessMm: number | null;
  /** It lies on the bed already: the machine takes no sheet for it. */
  onBed: boolean;
  /** How each layer of varnish is cured, from the media upwards; gloss where nothing is said. */
  curing: LaidLayer['curing'][];
  black: Black;
  /** Of its print mode; as the machine usually prints where it was not said. */
  passes: number | null;
  oneWay: boolean;
}

export interface PrinterJob {
  id: number;
  name: string;
  key: string | null;
  media: Wanted | null;
  thicknessMm?: number | null;
  onBed?: boolean;
  /** What lay on the bed when it was printed. */
  things?: LyingThing[];
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
  /** The layers that it was printed in; one of colour for a job of an earlier version. */
  layers?: LaidLayer[];
  curing?: LaidLayer['curing'][];
  black?: Black;
  passes?: number | null;
  oneWay?: boolean;
  body?: Body | undefined;
  colour?: string | undefined;
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

  /** Where on the things that lay on the bed a job's print lies. */
  async onThings(job: PrinterJob): Promise<OnThing[]> {
    const { cells, figures, rows } = await this.#lies(job);
    const inked = (cell: number) => {
      let sum = 0;
      for (let i = 0; i < figures; i++) sum += cells[cell * figures + i]!;
      return sum;
    };
    return printsOn(job.things ?? [], { columns: job.columns, rows, cellMm: job.cellMm, inked });
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

  /**
   * The colour at places of what was printed, as an aperture sees it: the mean of the cells in its square.
   *
   * @param places mm from the left edge and the start of the print
   * @returns XYZ of each, Y = 1 for the perfect reflector
   */
  async look(job: PrinterJob, places: readonly { x: number; y: number }[], apertureMm: number): Promise<Triple[]> {
    const lies = await this.#lies(job);
    const view: View = { from: 'front', backing: lies.physics.white };
    return places.map(({ x, y }) => {
      const from = (v: number, cell: number) => Math.max(0, Math.round((v - apertureMm / 2) / cell));
      const to = (v: number, cell: number, most: number) => Math.min(most, Math.round((v + apertureMm / 2) / cell));
      const sums = new Array<number>(lies.figures).fill(0);
      let count = 0;
      for (let row = from(y, job.cellMm.y); row < to(y, job.cellMm.y, lies.rows); row++) {
        for (let column = from(x, job.cellMm.x); column < to(x, job.cellMm.x, job.columns); column++, count++) {
          const at = (row * job.columns + column) * lies.figures;
          for (let i = 0; i < lies.figures; i++) sums[i] = sums[i]! + lies.cells[at + i]!;
        }
      }
      // Beside the print is bare media.
      const cell = lies.cellOf(sums.map((sum) => (count > 0 ? sum / count : 0)));
      return stackXyz(seenLayers(lies.layers, cell, lies.physics), lies.ground, view);
    });
  }

  /**
   * A picture of what was printed, from the front or from behind, over something, or of how it shines.
   *
   * @returns RGB of every cell
   */
  async picture(job: PrinterJob, view: View | 'gloss'): Promise<{ rgb: Uint8Array; columns: number; rows: number }> {
    const { cells, figures, rows, layers, physics, ground, cellOf } = await this.#lies(job);
    const rgb = new Uint8Array(job.columns * rows * 3);
    const known = new Map<string, Triple>();
    const values = new Array<number>(figures);
    for (let i = 0; i < job.columns * rows; i++) {
      let key = '';
      for (let k = 0; k < figures; k++) {
        // As finely as an eye sees.
        const value = Math.round((cells[i * figures + k]! * 255) / FULL);
        values[k] = (value * FULL) / 255;
        key += String.fromCharCode(value);
      }
      let colour = known.get(key);
      if (!colour) {
        const cell = cellOf(values);
        if (view === 'gloss') {
          const shine = glossOf(layers, cell, MEDIA_GLOSS[job.surface]);
          colour = [shine, shine, shine];
        } else colour = xyzToSrgb(stackXyz(seenLayers(layers, cell, physics), ground, view));
        if (known.size < MOST_COLOURS) known.set(key, colour);
      }
      // Left and right change places for who looks from behind.
      const to = view !== 'gloss' && view.from === 'behind' ? i - (i % job.columns) + job.columns - 1 - (i % job.columns) : i;
      for (let k = 0; k < 3; k++) rgb[to * 3 + k] = Math.round(colour[k]! * 255);
      if (i % 1e6 === 0) await pause(0);
    }
    return { rgb, columns: job.columns, rows };
  }

  /** What lies on the media, cell by cell. */
  async #lies(job: PrinterJob): Promise<{
    cells: Uint16Array;
    figures: number;
    rows: number;
    layers: LaidLayer[];
    physics: Physics;
    ground: Ground;
    cellOf: (figures: readonly number[]) => CellLayer[];
  }> {
    const bytes = await readFile(job.amounts);
    const cells = new Uint16Array(bytes.buffer, bytes.byteOffset, Math.floor(bytes.length / 2));
    const layers = job.layers ?? [{ ink: 'colour' as const }];
    const sizes = layers.map(({ ink }) => (ink === 'colour' ? PROCESS_CHANNELS.length : 1));
    const figures = sizes.reduce((sum, size) => sum + size, 0);
    const physics = new Physics(job.surface, job.load, job.unit, job.black);
    const { body = 'opaque', colour = WHITE_MEDIA } = job;
    // What an earlier version wrote has a full drop at the most.
    const full = job.layers ? FULL : 65_535;
    return {
      cells,
      figures,
      rows: Math.floor(cells.length / figures / job.columns),
      layers,
      physics,
      ground: colour === WHITE_MEDIA && body === 'opaque' ? { body, colour: physics.white } : groundOf(body, colour),
      cellOf: (values) => {
        let at = 0;
        return sizes.map((size) => values.slice(at, (at += size)).map((value) => value / full));
      }
    };
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
const WHITE_MEDIA = '#ffffff';
/** Colours that are remembered while a picture is made. */
const MOST_COLOURS = 1 << 20;
const MEDIA_GLOSS: Record<Surface, number> = { gloss: 0.75, satin: 0.45, matt: 0.15, paper: 0.1, fabric: 0.05 };

const pause = (ms: number) => new Promise<void>((resolve) => (ms > 0 ? setTimeout(resolve, ms) : setImmediate(resolve)));
