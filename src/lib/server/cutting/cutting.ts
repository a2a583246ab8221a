import { setTimeout } from 'node:timers/promises';
import type { Logger } from 'pino';
import sharp from 'sharp';
import type { Box } from '$core/geometry/box';
import type { Tool } from '$core/artwork/roles';
import type { Registration } from '$core/cutting/registration';
import { DEFAULT_MARKS } from '$core/marks/registration';
import type { KnifeChoice } from '$core/media/knife';
import { loadSheet, readCutLines, readCutter, seeMarks, sendHpgl, type CutterStatus } from '../machines/cutter-client';
import type { Machine, Machines } from '../machines/machines';
import type { FileStore } from '../platform/files';
import { Problem, sentence } from '../platform/problem';
import type { Printing } from '../printing/printing';
import type { Runs } from '../production/run-store';
import type { CutRow } from './cut';
import type { CutPaths } from './cut-paths';
import type { Cuts } from './cut-store';
import { cutAfter } from './cut-rules';

const LOOK_EVERY_MS = 400;
/** Coarser ones are not written down in a PNG. */
const BLANK_DPI = 30;
/** How long a cutter may be silent before a person is told. */
const SILENCE_MS = Number(process.env.ZING_SILENCE_MS ?? 15_000);
/** A cutter that stands still for so many looks has got all that it will get. */
const LOOKS_AT_REST = 3;

interface Needs {
  files: FileStore;
  log: Logger;
  machines: Machines;
  runs: Runs;
  printing: Printing;
  cuts: Cuts;
  paths: CutPaths;
}

/**
 * The cutter's part: carry a print there, find its marks, send the lines. What is cut is what the cutter says; a line that
 * breaks is never taken for an end, and what was cut is not cut again.
 */
export class Cutting {
  readonly #needs: Needs;
  readonly #stop = new AbortController();
  /** Cutters that a print is laid into, and those that something is sent to. */
  readonly #loading = new Set<number>();
  readonly #sending = new Set<number>();
  /** By cutter, where test cuts were made in the sheet that lies in it. */
  readonly #tested = new Map<number, { sheet: string | null; places: Box[] }>();

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** Goes on following what a stopped server followed. */
  resume(): void {
    // One that asks tells by itself how far it is.
    for (const { id, asked } of this.#needs.cuts.cutting()) if (!asked) void this.#follow(id, { isSent: true });
  }

  stop(): void {
    this.#stop.abort(new Problem(503, 'The server stops.'));
  }

  /** The print is laid into a cutter by hand, the shop's first where none is said. */
  async load(id: number, cutterId?: number): Promise<void> {
    const { printing, machines, cuts } = this.#needs;
    const { print_id: printId, state, closed, code } = cuts.row(id);
    if (closed) throw new Problem(409, `${code} was put down as ${closed}. Put it back to the prints that wait first.`);
    if (state === 'cutting') throw new Problem(409, `A cutter is cutting ${code}. Wait until it is done.`);
    const { id: machineId, url, name } = machines.cutter(cutterId);
    const other = cuts.cutting().find((row) => row.machine_id === machineId);
    if (other) throw new Problem(409, `${name} is cutting ${other.code}. Wait until it is done.`);
    if (this.#loading.has(machineId)) throw new Problem(409, `A print is being laid into ${name} already.`);
    this.#loading.add(machineId);
    try {
      const png = this.#isPlain(id) ? await this.#blank(id) : await printing.output(printId);
      const { sheet } = await loadSheet(url, new Uint8Array(png));
      const isFree = cuts.loaded(id, sheet, machineId);
      await machines.look(machineId);
      if (!isFree)
        throw new Problem(409, `${code} was taken by another cutter, or put down, while it was laid into ${name}. Take it out there.`); // prettier-ignore
    } finally {
      this.#loading.delete(machineId);
    }
  }

  /**
   * The camera looks for the marks; the fit is kept when it is good enough.
   *
   * @param isWhole a person says that it is not a print that broke off
   */
  async findMarks(id: number, isWhole = false): Promise<Registration> {
    const { cuts } = this.#needs;
    const row = cuts.row(id);
    if (row.state === 'cutting' || row.state === 'cut') throw new Problem(409, 'This print has been cut, or is being cut.');
    if (row.state === 'waiting') throw new Problem(409, 'Load the print into the cutter first.');
    const { cutter, status } = await this.#withSheet(row);
    const fit = this.#isPlain(id) ? this.#atCorner(id, status) : await this.#sighted(id, cutter.url, isWhole);
    if (!cuts.registered(id, fit, status.sheet ?? ''))
      throw new Problem(409, 'The print was laid in anew while its marks were looked for. Find them again.');
    return fit;
  }

  async #sighted(id: number, url: string, isWhole: boolean): Promise<Registration> {
    const { cuts, paths } = this.#needs;
    const { diameter, shape } = { ...DEFAULT_MARKS, ...cuts.plan(id).marks[0] };
    return paths.sighted(id, await seeMarks(url, diameter, shape), isWhole);
  }

  /** Film without a print has no marks. */
  #isPlain(id: number): boolean {
    return this.#needs.cuts.plan(id).marks.length === 0;
  }

  /** What a person lays in for it. */
  #blank(id: number): Promise<Buffer> {
    const { widthMm, lengthMm } = this.#needs.cuts.plan(id);
    const [width, height] = [widthMm, lengthMm].map((mm) => Math.max(1, Math.round((mm / 25.4) * BLANK_DPI))) as [number, number];
    return sharp({ create: { width, height, channels: 3, background: '#fff' } })
      .withMetadata({ density: BLANK_DPI })
      .png()
      .toBuffer();
  }

  /** It is cut from its corner on. */
  #atCorner(id: number, { loaded }: CutterStatus): Registration {
    const { x, y } = loaded?.corner ?? { x: 0, y: 0 };
    const { lengthMm } = this.#needs.cuts.plan(id);
    return { map: [1, 0, 0, -1, x, y + lengthMm], middle: 0, half: 1, rows: [], worst: 0, rms: 0, matched: [] };
  }

  /**
   * Has the lines cut that are not cut yet, and follows the cutter until it is done.
   *
   * @param all those too that are cut already
   * @throws Problem when it is being cut, or the sheet is not in the cutter
   */
  cut(id: number, how: { knife?: KnifeChoice | undefined; all?: boolean } = {}): Promise<void> {
    return this.#alone(id, () => this.#cut(id, how));
  }

  /** A cutter is sent one thing at a time: what is counted as cut is counted from where it stands. */
  async #alone(id: number, send: () => Promise<void>): Promise<void> {
    const { machines, cuts } = this.#needs;
    const { id: machineId, name } = machines.cutter(cuts.row(id).machine_id);
    if (this.#sending.has(machineId)) throw new Problem(409, `${name} is just being sent something. Wait a moment.`);
    this.#sending.add(machineId);
    try {
      await send();
    } finally {
      this.#sending.delete(machineId);
    }
  }

  async #cut(id: number, { knife, all = false }: { knife?: KnifeChoice | undefined; all?: boolean }): Promise<void> {
    const { files, cuts, paths } = this.#needs;
    const task = cuts.get(id);
    if (task.state === 'cutting') throw new Problem(409, 'It is being cut already.');
    if (task.state === 'cut') throw new Problem(409, 'It has been cut. Load the print again to cut it once more.');
    if (task.state !== 'registered' || !task.registration)
      throw new Problem(409, 'Find the marks first, so that the knife knows where the print lies.');
    const { cutter, status } = await this.#withSheet(cuts.row(id));
    if (status.busy) throw new Problem(409, `${cutter.name} is moving. Wait until it stands still.`);
    const from = all ? 0 : task.linesCut;
    if (knife) cuts.setKnife(id, knife);
    const { knife: used } = cuts.get(id);
    const { hpgl, before, ends } = await paths.led(id, from, used);
    const hpglHash = await files.put(hpgl);
    const offset = status.linesCut + before - (ends[from - 1] ?? 0);
    if (!cuts.claim(id, { sheet: status.sheet ?? '', knife: used, hpglHash, from, offset }))
      throw new Problem(409, 'It is being cut already, or was laid in anew.');
    const sending = { isSent: false };
    sendHpgl(cutter.url, status.hpglPort, hpgl, this.#stop.signal)
      .catch((error: unknown) => this.#needs.log.warn({ cut: id, error: sentence(error) }, 'lines were not sent whole'))
      .finally(() => (sending.isSent = true));
    void this.#follow(id, sending);
  }

  /** A print is taken from a cutter that does not answer, to be cut elsewhere. @throws Problem where it answers */
  giveUp(id: number): void {
    const { cuts, machines } = this.#needs;
    const { state, code, lines_cut: lines, sheet, machine_id: machineId } = cuts.row(id);
    const { name, online } = machines.cutter(machineId);
    if (state !== 'cutting') throw new Problem(409, `${code} is not being cut.`);
    if (online) throw new Problem(409, `${name} answers: stop it there, so that nothing is cut twice.`);
    cuts.unloaded(
      id,
      sheet,
      `Given up while ${name} did not answer: ${lines} lines were cut when it last told. Look at the print: what it cut beyond that is cut once more.`
    );
  }

  /** Cuts a square and a triangle in the waste, as the work will be cut. */
  test(id: number, tool: Tool, knife?: KnifeChoice): Promise<void> {
    return this.#alone(id, () => this.#test(id, tool, knife));
  }

  async #test(id: number, tool: Tool, knife: KnifeChoice | undefined): Promise<void> {
    const { cuts, log, paths } = this.#needs;
    if (cuts.get(id).state !== 'registered')
      throw new Problem(409, 'Find the marks first, so that the knife knows where the print lies.');
    const { cutter, status } = await this.#withSheet(cuts.row(id));
    if (status.busy) throw new Problem(409, `${cutter.name} is moving. Wait until it stands still.`);
    if (knife) cuts.setKnife(id, knife);
    const { sheet } = status;
    const before = this.#tested.get(cutter.id);
    const places = before?.sheet === sheet ? before.places : [];
    const { hpgl, place } = await paths.testCut(id, tool, places);
    if (cuts.row(id).sheet !== sheet) throw new Problem(409, 'The print was laid in anew. Find its marks again.');
    // The next one is cut beside it.
    this.#tested.set(cutter.id, { sheet, places: [...places, place] });
    await sendHpgl(cutter.url, status.hpglPort, hpgl, this.#stop.signal).catch((error: unknown) => {
      log.warn({ cut: id, error: sentence(error) }, 'a test cut was not sent whole');
      throw new Problem(502, `The line to ${cutter.name} broke. Look at the test cut before you ask for it again.`);
    });
  }

  /** The lines as the cutter says it cut them, in the print's coordinates. */
  async asCut(id: number): Promise<{ x: number; y: number }[][]> {
    const { cuts, machines } = this.#needs;
    const { sheet, machine_id: machineId, asked } = cuts.row(id);
    if (sheet === null || machineId === null || asked) return [];
    // One that was put away too: it is asked nothing.
    const { url, cutter } = machines.get(machineId);
    return cutter?.sheet === sheet ? readCutLines(url).catch(() => []) : [];
  }

  /** Asks the cutter for its state now. @throws Problem when the task's sheet does not lie in it */
  async #withSheet({ id, sheet, machine_id: machineId }: CutRow): Promise<{ cutter: Machine; status: CutterStatus }> {
    const { machines, cuts } = this.#needs;
    const cutter = machines.cutter(machineId);
    const status = await readCutter(cutter.url);
    if (status.sheet === sheet) return { cutter, status };
    const reason = `The print does not lie in ${cutter.name} any more: it was switched off, or another sheet was laid in. Load the print again.`;
    cuts.unloaded(id, sheet, reason);
    throw new Problem(409, reason);
  }

  /** @param sending whether all was sent, or sending it has failed: then a cutter that stands still is done */
  async #follow(id: number, sending: { isSent: boolean }): Promise<void> {
    const { machines, cuts, runs, log, paths } = this.#needs;
    const { signal } = this.#stop;
    const { name, url, id: machineId } = machines.cutter(cuts.row(id).machine_id);
    const { runId, code } = cuts.get(id);
    /** By line the strokes that are made when it is cut. */
    let ends: number[] | undefined;
    let heard = performance.now();
    let looksAtRest = 0;
    while (!signal.aborted) {
      try {
        const row = cuts.row(id);
        if (row.state !== 'cutting') return;
        ends ??= (await paths.led(id, 0)).ends;
        const count = ends.length;
        const status = await readCutter(url).catch(() => undefined);
        const isLate = performance.now() - heard > SILENCE_MS;
        if (status) {
          heard = performance.now();
          const strokes = status.linesCut - row.line_offset;
          const done = cutAfter(ends, strokes);
          looksAtRest = status.busy ? 0 : looksAtRest + 1;
          if (status.sheet !== row.sheet)
            cuts.unloaded(
              id,
              row.sheet,
              `${name} was switched off or emptied while it cut ${code}: ${row.lines_cut} of ${count} lines were cut when it was last heard. Look at the print before you load it again.`
            );
          else if (done >= count && !status.busy) cuts.ended(id, 'cut', count, null);
          else if (sending.isSent && looksAtRest >= LOOKS_AT_REST) {
            // The line that it stopped in may be half cut: it is cut once more.
            const whole = cutAfter(ends, strokes - 1);
            cuts.ended(id, 'registered', whole, `The line to ${name} broke: ${whole} of ${count} lines were cut. Cut the rest.`);
          } else cuts.progress(id, done, null);
        } else if (isLate)
          cuts.progress(
            id,
            row.lines_cut,
            `${name} does not answer. ${row.lines_cut} of ${count} lines were cut when it was last heard; what it cuts meanwhile is written down when it answers.`
          );
      } catch (error) {
        // A full disk: what the cutter says is asked for again.
        log.error({ cut: id, run: runs.get(runId).id, error: sentence(error) }, 'a cut could not be followed');
      }
      if (cuts.row(id).state !== 'cutting') break;
      await setTimeout(LOOK_EVERY_MS, undefined, { signal }).catch(() => undefined);
    }
    if (!signal.aborted) await machines.look(machineId);
  }
}
