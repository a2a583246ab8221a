import { randomBytes } from 'node:crypto';
import { connect } from 'node:net';
import { z } from 'zod';
import { register, RegistrationError, type Registration } from '$core/cutting/affine';
import { writeHpgl } from '$core/cutting/hpgl';
import { orderCuts, travel, type CutLine } from '$core/cutting/order';
import { apply } from '$core/geometry/matrix';
import { flatten, lengthOf } from '$core/geometry/path';
import { DEFAULT_MARKS } from '$core/marks/registration';
import { DEFAULT_KNIVES, KnifeChoice, MOST_RESIDUAL_MM } from '$lib/model';
import { Problem } from '../platform/problem';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { FileStore } from '../platform/files';
import type { Machines } from '../machines/machines';
import type { Printing } from '../printing/printing';
import type { Runs } from '../production/run-store';

export interface CutRow {
  id: number;
  code: string;
  print_id: number;
  state: 'waiting' | 'loaded' | 'registered' | 'cut';
  knife: string;
  registration: string | null;
  hpgl_hash: string | null;
  added_at: number;
  cut_at: number | null;
}

export interface CutTask {
  id: number;
  code: string;
  state: CutRow['state'];
  printId: number;
  runId: number;
  names: string[];
  knife: KnifeChoice;
  registration: Registration | null;
  addedAt: number;
  cutAt: number | null;
}

export interface CutDetail extends CutTask {
  /** The print that is to be cut, mm. */
  widthMm: number;
  lengthMm: number;
  marks: { x: number; y: number; diameter: number }[];
  /** In cutting order, run coordinates. */
  lines: CutLine[];
  cutMm: number;
  travelMm: number;
  secondsAtSpeed: number;
}

/** Flat pieces depart from the curve by at most this, mm: below the step of the cutter. */
const FLATNESS_MM = 0.01;
/** Lifting, lowering and turning takes about this long. */
const SECONDS_A_LINE = 0.4;
/** The head is carried lifted this fast, mm/s. */
const TRAVEL_MM_S = 600;

const PointList = z.array(z.object({ x: z.number(), y: z.number() }));

/** What it works with. */
interface Needs {
  db: Db;
  events: Events;
  files: FileStore;
  machines: Machines;
  printing: Printing;
  runs: Runs;
}

/** The cutter's part: carry a print there, find its marks, send the lines. */
export class Cutting {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.events.on('print done', ({ printId, runId }) => this.#add(printId, runId));
  }

  /** A print that is to be cut goes to the cutter, under a code that no other has. */
  #add(printId: number, runId: number): void {
    const { db, events, runs } = this.#needs;
    if (runs.frozen(runId).cuts.length === 0) return;
    const put = db.prepare(
      "INSERT INTO cut_task (code, print_id, state, knife, added_at) VALUES (?, ?, 'waiting', ?, ?) ON CONFLICT (code) DO NOTHING"
    );
    for (;;) {
      const code = `CUT-${randomBytes(3).toString('hex').toUpperCase()}`;
      if (put.run(code, printId, JSON.stringify(DEFAULT_KNIVES), Date.now()).changes > 0) break;
    }
    events.changed('cuts');
  }

  list(): CutTask[] {
    return this.#needs.db
      .prepare<[], CutRow>('SELECT * FROM cut_task ORDER BY id DESC')
      .all()
      .map((row) => this.#toTask(row));
  }

  get(id: number): CutDetail {
    const task = this.#toTask(this.#row(id));
    const { plan } = this.#needs.runs.frozen(task.runId);
    const lines = this.#lines(task.runId);
    const cutMm = lines.reduce((sum, line) => sum + lengthOf(line), 0);
    const travelMm = travel(lines);
    return {
      ...task,
      widthMm: plan.widthMm,
      lengthMm: plan.lengthMm,
      marks: plan.marks,
      lines,
      cutMm,
      travelMm,
      secondsAtSpeed:
        lines.reduce((sum, line) => sum + lengthOf(line) / (task.knife[line.tool].speed * 10) + SECONDS_A_LINE, 0) +
        travelMm / TRAVEL_MM_S
    };
  }

  setKnife(id: number, knife: KnifeChoice): void {
    this.#needs.db.prepare('UPDATE cut_task SET knife = ? WHERE id = ?').run(JSON.stringify(knife), id);
    this.#needs.events.changed('cuts');
  }

  /** The print is laid into the cutter by hand. */
  async load(id: number): Promise<void> {
    const { printing, machines, db, events } = this.#needs;
    const task = this.#toTask(this.#row(id));
    const cutter = machines.cutter();
    const png = await printing.output(task.printId);
    await this.#ask(cutter.url, '/load', { method: 'POST', body: new Uint8Array(png), headers: { 'content-type': 'image/png' } });
    db.transaction(() => {
      // One sheet lies in the cutter at a time.
      db.prepare("UPDATE cut_task SET state = 'waiting', registration = NULL WHERE state IN ('loaded', 'registered')").run();
      db.prepare("UPDATE cut_task SET state = 'loaded', registration = NULL WHERE id = ?").run(id);
    })();
    events.changed('cuts');
    void machines.lookNow();
  }

  /** The camera looks for the marks; the fit is kept when it is good enough. */
  async findMarks(id: number): Promise<Registration> {
    const { machines, runs, db, events } = this.#needs;
    const row = this.#row(id);
    if (row.state === 'waiting') throw new Problem(409, 'Load the print into the cutter first.');
    const task = this.#toTask(row);
    const [mark] = runs.frozen(task.runId).plan.marks;
    const { diameter, shape } = { ...DEFAULT_MARKS, ...mark };
    const reply = await this.#ask(machines.cutter().url, `/camera?diameter=${diameter}&shape=${shape}`);
    const { marks } = z.object({ marks: PointList }).parse(reply);
    try {
      const fit = register(runs.frozen(task.runId).plan.marks, marks, MOST_RESIDUAL_MM);
      db.prepare("UPDATE cut_task SET state = 'registered', registration = ? WHERE id = ?").run(JSON.stringify(fit), id);
      events.changed('cuts');
      return fit;
    } catch (error) {
      if (error instanceof RegistrationError) throw new Problem(409, error.message);
      throw error;
    }
  }

  async cut(id: number): Promise<void> {
    const { machines, files, db, events } = this.#needs;
    const row = this.#row(id);
    const task = this.#toTask(row);
    const { registration } = task;
    if (row.state !== 'registered' || !registration)
      throw new Problem(409, 'Find the marks first, so that the knife knows where the print lies.');
    const cutter = machines.cutter();
    if (!cutter.online || !cutter.cutter) throw new Problem(409, `${cutter.name} does not answer. Switch it on.`);
    const lines = this.#lines(task.runId).map((line) => ({
      ...line,
      points: line.points.map((p) => apply(registration.map, p))
    }));
    const hpgl = writeHpgl(lines, task.knife);
    const hash = await files.put(hpgl);
    await sendText(new URL(cutter.url).hostname, cutter.cutter.hpglPort, hpgl);
    db.prepare("UPDATE cut_task SET state = 'cut', hpgl_hash = ?, cut_at = ? WHERE id = ?").run(hash, Date.now(), id);
    events.changed('cuts');
    void machines.lookNow();
  }

  /** The lines as the cutter says it cut them, in the print's coordinates. */
  async asCut(id: number): Promise<{ x: number; y: number }[][]> {
    const row = this.#row(id);
    if (row.state !== 'cut') return [];
    const reply = await this.#ask(this.#needs.machines.cutter().url, '/cut').catch(() => ({ lines: [] }));
    return z.object({ lines: z.array(PointList) }).parse(reply).lines;
  }

  async #ask(base: string, path: string, options: RequestInit = {}): Promise<unknown> {
    let reply: Response;
    try {
      reply = await fetch(`${base}${path}`, { ...options, signal: AbortSignal.timeout(60_000) });
    } catch {
      throw new Problem(502, 'The cutter does not answer. Switch it on and try again.');
    }
    const body = (await reply.json()) as { error?: string };
    if (!reply.ok) throw new Problem(502, body.error ?? 'The cutter refused.');
    return body;
  }

  #lines(runId: number): CutLine[] {
    const { cuts } = this.#needs.runs.frozen(runId);
    return orderCuts(cuts.flatMap((cut) => flatten(cut.path, FLATNESS_MM).map((line) => ({ ...line, tool: cut.tool }))));
  }

  #row(id: number): CutRow {
    const row = this.#needs.db.prepare<[number], CutRow>('SELECT * FROM cut_task WHERE id = ?').get(id);
    if (!row) throw new Problem(404, 'There is no such cut task.');
    return row;
  }

  #toTask(row: CutRow): CutTask {
    const runId =
      this.#needs.db.prepare<[number], { run_id: number }>('SELECT run_id FROM print WHERE id = ?').get(row.print_id)?.run_id ??
      0;
    const names = this.#needs.db
      .prepare<[number], { name: string }>(
        'SELECT d.name FROM run_docket r JOIN docket d ON d.id = r.docket_id WHERE r.run_id = ? ORDER BY r.position'
      )
      .all(runId)
      .map(({ name }) => name);
    return {
      id: row.id,
      code: row.code,
      state: row.state,
      printId: row.print_id,
      runId,
      names,
      knife: KnifeChoice.parse(JSON.parse(row.knife)),
      registration: row.registration ? (JSON.parse(row.registration) as Registration) : null,
      addedAt: row.added_at,
      cutAt: row.cut_at
    };
  }
}

const SEND_MS = 60_000;

/** Sends HPGL and waits until the other side has taken all of it. */
function sendText(host: string, port: number, text: string): Promise<void> {
  return new Promise((resolve, reject) => {
    const socket = connect(port, host);
    const fail = (error: Error) => {
      socket.destroy();
      reject(
        new Problem(
          502,
          `The cutter lost the line while it was cutting (${error.message}). Look at the sheet, then find the marks and cut again.`
        )
      );
    };
    socket.setTimeout(SEND_MS, () => fail(new Error('no answer')));
    socket.on('error', fail);
    socket.on('connect', () => socket.end(text, 'latin1'));
    socket.on('close', (hadError) => {
      if (!hadError) resolve();
    });
  });
}
