import { LRUCache } from 'lru-cache';
import type { z } from 'zod';
import type { Registration } from '$core/cutting/registration';
import { readPrintCode, shownCode } from '$core/marks/print-code';
import type { Claim, Claimed, CutterJob, Failed, Progress } from '$protocol/cutter';
import type { Machines } from '../machines/machines';
import type { Db } from '../platform/db/open';
import type { Events, News } from '../platform/events';
import type { FileStore } from '../platform/files';
import { Problem } from '../platform/problem';
import type { Runs } from '../production/run-store';
import { chooseTask, codeApart, cutAfter, isElsewhere, isRefusal, lacking, type Candidate } from './cut-rules';
import type { CutPaths } from './cut-paths';
import type { Cuts } from './cut-store';

interface Needs {
  db: Db;
  events: Events;
  files: FileStore;
  machines: Machines;
  runs: Runs;
  cuts: Cuts;
  paths: CutPaths;
}

/** Cuts whose strokes are at hand. */
const MOST_FOLLOWED = 20;

/**
 * Cutters that ask: by the code that their camera read they are told what is cut, and by the marks that it sees how. What is
 * cut already, is cut elsewhere, was changed since or lies doubtfully is refused with the reason.
 */
export class Asking {
  readonly #needs: Needs;
  /** By task, by line the strokes that are made when it is cut. */
  readonly #ends = new LRUCache<string, number[]>({ max: MOST_FOLLOWED });
  /** By machine, when it last claimed something. */
  readonly #claimedAt = new Map<number, number>();

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.events.on('cutter seen', (news) => this.#seen(news));
  }

  /** What is known of a code. @throws Problem 404 where it is none of this shop's */
  job(text: string): CutterJob {
    const code = codeOf(text);
    const tasks = this.tasks(code);
    const { widthMm, lengthMm, marks, codes = [] } = this.#needs.cuts.plan(tasks[0]!.id);
    return {
      code,
      shown: shownCode(code),
      widthMm,
      lengthMm,
      marks: marks.map(({ x, y, diameter, shape = 'disc' }) => ({ x, y, diameter, shape })),
      codes,
      prints: tasks.length,
      cut: tasks.filter(({ state }) => state === 'cut').length
    };
  }

  /** The prints of a code, the oldest first. @throws Problem 404 where it has none */
  tasks(code: string): Candidate[] {
    const tasks = this.#needs.db
      .prepare<[string], Candidate>(
        'SELECT id, code, state, closed, lines_cut, allowed, cut_at FROM cut_task WHERE print_code = ? ORDER BY id'
      )
      .all(code);
    if (tasks.length > 0) return tasks;
    throw refused(404, 'unknown', `No print of ${shownCode(code)} is known: its run was deleted, was not printed to its end, or is another shop’s.`); // prettier-ignore
  }

  /** A print is cut by a cutter that sees its marks. @throws Problem 409 with why it is not */
  async claim(machineId: number, text: string, { sheet, seen, code: read }: z.output<typeof Claim>): Promise<Claimed> {
    const { machines, runs, cuts, files } = this.#needs;
    const code = codeOf(text);
    const tasks = this.tasks(code);
    const { name } = machines.cutter(machineId);
    const mine = tasks.find(({ id }) => cuts.row(id).sheet === sheet && cuts.row(id).machine_id === machineId);
    if (mine?.state === 'cutting') throw refused(409, 'claimed', `${mine.code} is being cut by ${name} already.`);
    // What was begun where it lies still is known for that, however many look the same.
    const begun = mine?.state === 'waiting' && mine.lines_cut > 0 ? mine : undefined;
    const chosen = begun ?? chooseTask(code, tasks, this.#isChanged(code, tasks[0]!.id, runs));
    if (isRefusal(chosen)) throw refused(409, chosen.kind, chosen.sentence);
    const { id } = chosen;
    try {
      const { runId, knife, linesCut, state } = cuts.get(id);
      const plan = cuts.plan(id);
      const used = linesCut > 0 && state !== 'cut' ? knife : cuts.knivesFor(runId, machineId);
      const lacks = lacking(name, machines.abilities(machineId), plan, new Set(plan.cuts.map(({ tool }) => tool)), used);
      if (lacks) throw refused(409, 'tool', lacks);
      const fit = await this.#sighted(id, seen);
      const apart = codeApart(fit, plan.codes ?? [], read);
      if (isElsewhere(apart))
        throw refused(409, 'marks', `The code that was read lies ${apart.toFixed(1)} mm from where the marks say that it is: these are marks of another print.`); // prettier-ignore
      if (!cuts.claimAsked(id, { machineId, sheet, fit }))
        throw refused(409, 'claimed', `${chosen.code} is cut elsewhere since.`);
      this.#claimedAt.set(machineId, performance.now());
      return await this.#led(id, fit, files);
    } catch (error) {
      // It says why at the task too, where a person looks for it.
      if (error instanceof Problem) cuts.refusedBy(id, error.message);
      throw error;
    }
  }

  async #led(id: number, fit: Registration, files: FileStore): Promise<Claimed> {
    const { cuts, paths } = this.#needs;
    const { linesCut: from, code: name } = cuts.get(id);
    try {
      const { hpgl, before, ends } = await paths.led(id, from);
      this.#ends.set(String(id), ends);
      cuts.keepLed(id, await files.put(hpgl), before - (ends[from - 1] ?? 0));
      const head = fit.map[2];
      return { task: id, name, hpgl, from, of: ends.length, rms: fit.rms, worst: fit.worst, isTurned: head < 0 };
    } catch (error) {
      // Nothing was cut of it.
      cuts.ended(id, 'waiting', from, null);
      throw error;
    }
  }

  async #sighted(id: number, seen: Claim['seen']): Promise<Registration> {
    try {
      return await this.#needs.paths.sighted(id, seen, this.#needs.cuts.row(id).allowed === 1);
    } catch (error) {
      if (error instanceof Problem) throw refused(error.status, error.fields.refused ?? 'marks', error.message);
      throw error;
    }
  }

  /** How far it is. */
  async progress(machineId: number, text: string, { task, strokes }: z.output<typeof Progress>): Promise<void> {
    const done = await this.#linesAfter(machineId, text, task, strokes);
    this.#needs.cuts.progress(task, done.lines, null);
  }

  /** It is cut to its end. */
  async done(machineId: number, text: string, { task, strokes }: z.output<typeof Progress>): Promise<void> {
    const { lines, of } = await this.#linesAfter(machineId, text, task, strokes);
    if (lines < of) return this.#broken(task, lines, of, 'The cutter ended early.');
    this.#needs.cuts.ended(task, 'cut', of, null);
  }

  /** It is not cut to its end, for a reason. */
  async failed(machineId: number, text: string, { task, strokes, reason }: z.output<typeof Failed>): Promise<void> {
    const { lines, of } = await this.#linesAfter(machineId, text, task, strokes);
    this.#broken(task, lines, of, reason);
  }

  #broken(task: number, lines: number, of: number, reason: string): void {
    const rest = lines > 0 ? `${lines} of ${of} lines were cut; the rest is cut when it lies in a cutter again.` : 'Nothing of it was cut.'; // prettier-ignore
    this.#needs.cuts.ended(task, 'waiting', lines, `${reason} ${rest}`);
  }

  /** @throws Problem where another cutter has it, or nobody */
  async #linesAfter(machineId: number, text: string, task: number, strokes: number): Promise<{ lines: number; of: number }> {
    const { cuts, paths } = this.#needs;
    const row = cuts.row(task);
    if (row.machine_id !== machineId || row.print_code !== codeOf(text) || row.state !== 'cutting' || !row.asked)
      throw refused(409, 'claimed', `${row.code} is not being cut by this cutter.`);
    const known = this.#ends.get(String(task));
    const ends = known ?? (await paths.led(task, 0)).ends;
    this.#ends.set(String(task), ends);
    return { lines: Math.max(row.lines_cut, cutAfter(ends, strokes - row.line_offset)), of: ends.length };
  }

  /** What it was cutting lies there no more when it was switched off, or emptied. */
  #seen({ machineId, roll, askedAt }: News['cutter seen']): void {
    const { cuts, machines } = this.#needs;
    // It claimed something since it said so.
    if ((this.#claimedAt.get(machineId) ?? -Infinity) >= askedAt) return;
    for (const { id, asked, machine_id: cutter, sheet, code, lines_cut: lines } of cuts.cutting()) {
      if (!asked || cutter !== machineId || sheet?.split('/')[0] === roll?.id) continue;
      cuts.unloaded(
        id,
        sheet,
        `${machines.cutter(machineId).name} was switched off or emptied while it cut ${code}: ${lines} lines were cut when it last told. The rest is cut when the print lies in a cutter again.`
      );
    }
  }

  /** Whether a docket of what was printed is another since, as far as the cutter can tell: its size, page or lines. */
  #isChanged(code: string, task: number, runs: Runs): boolean {
    const { runId } = this.#needs.cuts.get(task);
    const run = runs.find(runId);
    if (!run) return false;
    const { code: now } = runs.frozen(runId);
    return now?.text !== code || runs.isCutOtherwise(runId);
  }
}

/** @throws Problem for what is no code */
function codeOf(text: string): string {
  const code = readPrintCode(text);
  if (code === undefined)
    throw refused(404, 'unknown', `“${text.slice(0, 20)}” is no code of a print: ten letters and figures, as 7K3QW-9XZ0A.`);
  return code;
}

const refused = (status: number, kind: string, sentence: string) => new Problem(status, sentence, { refused: kind });
