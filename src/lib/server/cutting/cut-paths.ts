import { LRUCache } from 'lru-cache';
import type { Piscina } from 'piscina';
import type { Tool } from '$core/artwork/roles';
import type { CutLine } from '$core/cutting/order';
import { MOST_OFF_MM, type Registration } from '$core/cutting/registration';
import type { Box } from '$core/geometry/box';
import type { Point } from '$core/geometry/matrix';
import { marksTo } from '$core/marks/registration';
import type { ShopUnit } from '$core/units/length';
import { PLAIN_CUTTER, type CutterAbilities } from '$protocol/cutter';
import type { Machines } from '../machines/machines';
import { Problem } from '../platform/problem';
import type { Settings } from '../platform/settings';
import type { Runs } from '../production/run-store';
import type { CutDetail, CutForm } from './cut';
import { mayBeBroken } from './cut-rules';
import type { Cuts } from './cut-store';
import type { CutSums, Leading, Led, registerPrint, Sighting, TestCut, Testing } from './workers/cut';

/** Runs whose lines are kept in order. */
const MOST_ORDERED = 50;

interface Needs {
  machines: Machines;
  runs: Runs;
  cuts: Cuts;
  cutPool: Piscina;
  settings: Settings;
}

/** The way of the knife for prints that are to be cut: its order, how it is led where a print lies, and files of it. All in threads. */
export class CutPaths {
  readonly #needs: Needs;
  readonly #lines = new LRUCache<string, CutLine[]>({ max: MOST_ORDERED });

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  async detail(id: number): Promise<CutDetail> {
    const task = this.#needs.cuts.get(id);
    const { widthMm, lengthMm, marks, codes = [] } = this.#needs.cuts.plan(id);
    const lines = await this.lines(id);
    const { moves } = this.#abilities(task.machineId);
    const sums = (await this.#needs.cutPool.run(
      { lines, knives: task.knife, moves, marks: marks.length },
      { name: 'sumsOf' }
    )) as CutSums;
    return { ...task, widthMm, lengthMm, marks, codes, lines, ...sums };
  }

  /** What the cutter can do that a print lies in, or the first one of the shop. */
  #abilities(machineId: number | null): CutterAbilities {
    const { machines } = this.#needs;
    const id = machineId ?? machines.list().find(({ kind }) => kind === 'cutter')?.id;
    return id === undefined ? PLAIN_CUTTER : machines.abilities(id);
  }

  /** The lines of a print in the order that they are cut in: looked for in a thread, and kept. */
  async lines(id: number): Promise<CutLine[]> {
    const { runs, cutPool } = this.#needs;
    const { print_code: printed, code, reach_mm: reach, part_mm: part } = this.#needs.cuts.row(id);
    const { runId } = this.#needs.cuts.get(id);
    const key = `${printed ?? `${code} ${runs.platesName(runId) ?? ''}`} ${reach ?? ''} ${part ?? ''}`;
    const known = this.#lines.get(key);
    if (known) return known;
    const { cuts, inOrder } = this.#needs.cuts.plan(id);
    const asked = { cuts, inOrder, reach: reach ?? Infinity };
    const lines = (await cutPool.run(asked, { name: 'orderForCutting' })) as CutLine[];
    this.#lines.set(key, lines);
    return lines;
  }

  /** Which way the head is led for a print that lies in the cutter. */
  async led(id: number, from: number, knives = this.#needs.cuts.get(id).knife): Promise<Led> {
    const leading: Leading = { ...(await this.#placed(id)), knives, from };
    return (await this.#needs.cutPool.run(leading, { name: 'leadKnife' })) as Led;
  }

  /**
   * A test cut in the waste of a print that lies in the cutter, as HPGL.
   *
   * @param before where others were cut of the same sheet
   * @throws Problem where there is no room for it
   */
  async testCut(id: number, tool: Tool, before: readonly Box[]): Promise<TestCut> {
    const placed = await this.#placed(id);
    const testing: Testing = { ...placed, codes: [...placed.codes, ...before], tool };
    const made = (await this.#needs.cutPool.run(testing, { name: 'leadTestCut' })) as TestCut | undefined;
    if (!made)
      throw new Problem(409, 'There is no room in the waste for a test cut of 24 × 10 mm. Cut one on a rest of the same media.');
    return made;
  }

  async #placed(id: number): Promise<Omit<Leading, 'from'>> {
    const { knife, registration } = this.#needs.cuts.get(id);
    if (!registration) throw new Problem(409, 'Find the marks first, so that the knife knows where the print lies.');
    const { marks, codes = [] } = this.#needs.cuts.plan(id);
    return { lines: await this.lines(id), lie: registration, knives: knife, marks, codes };
  }

  /** The lines of a print as a file for another cutter, with its marks. */
  async file(id: number, as: CutForm): Promise<Uint8Array> {
    const { widthMm, lengthMm, marks } = this.#needs.cuts.plan(id);
    const asked = { as, widthMm, lengthMm, marks, lines: await this.lines(id), knives: this.#needs.cuts.get(id).knife };
    return (await this.#needs.cutPool.run(asked, { name: 'writeCutFile' })) as Uint8Array;
  }

  /** How a print lies by the marks that are seen of it. @param isWhole a person said so @throws Problem with why that is not known */
  async sighted(id: number, seen: readonly Point[], isWhole = false): Promise<Registration> {
    const { cuts, settings } = this.#needs;
    const { unit } = settings.current;
    const { marks } = cuts.plan(id);
    const brokenMm = isWhole ? [] : cuts.brokenOff(id);
    const answer = await this.#fitted(marks, seen);
    // Of one that broke off early too few are seen: by the marks that it has itself it is known.
    const parts = 'refused' in answer ? brokenMm.map((mm) => marksTo(marks, mm)) : [];
    for (const part of parts.filter(({ length }) => length < marks.length)) {
      const known = await this.#fitted(part, seen);
      if ('fit' in known) mustBeWhole(marks, known.fit, brokenMm, unit);
    }
    if ('refused' in answer) throw new Problem(409, answer.refused);
    mustBeWhole(marks, answer.fit, brokenMm, unit);
    return answer.fit;
  }

  async #fitted(expected: readonly Point[], seen: readonly Point[]): Promise<ReturnType<typeof registerPrint>> {
    const sighting: Sighting = { expected: [...expected], seen: [...seen], limit: MOST_OFF_MM };
    return (await this.#needs.cutPool.run(sighting, { name: 'registerPrint' })) as ReturnType<typeof registerPrint>;
  }
}

/** @throws Problem where what is seen may be a print that broke off */
function mustBeWhole(marks: readonly Point[], { matched }: Registration, brokenMm: readonly number[], unit: ShopUnit): void {
  const found = matched.map(({ expected }) => expected);
  const why = mayBeBroken(marks, found, brokenMm, unit);
  if (why) throw new Problem(409, why, { refused: 'broken' });
}
