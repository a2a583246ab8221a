import { counted } from '$core/units/counted';
import type { CutterRoll, RollPlace } from '$protocol/cutter';
import { askRoll, cutAgain, layRoll, newBlade, readCutter, rollPicture, startRoll } from '../machines/cutter-client';
import type { Machine, Machines } from '../machines/machines';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import type { Printing } from '../printing/printing';
import { readPrintCode } from '$core/marks/print-code';
import type { Asking } from './asking';
import type { CutRow } from './cut';
import type { Candidate } from './cut-rules';
import type { Cuts } from './cut-store';
import type { CutterKeys } from './cutter-keys';

/** A print that waits on a roll. */
export interface WaitingPrint {
  id: number;
  code: string;
  /** It carries one that a camera reads. */
  hasCode: boolean;
  reason: string | null;
  printId: number;
  names: string;
  widthMm: number;
  lengthMm: number;
}

/** What one machine printed on one media and is not cut, in the order that it was printed in. */
export interface WaitingRoll {
  key: string;
  printer: string;
  media: string;
  /** Prints one after another on a roll, or sheets. */
  bed: 'roll' | 'flatbed';
  prints: WaitingPrint[];
}

interface WaitingRow extends Omit<WaitingPrint, 'hasCode'> {
  hasCode: number;
  machineId: number;
  mediaId: number;
  printer: string;
  media: string;
  bed: 'roll' | 'flatbed';
}

interface Needs {
  db: Db;
  events: Events;
  machines: Machines;
  printing: Printing;
  cuts: Cuts;
  asking: Asking;
  keys: CutterKeys;
}

/** Prints that a roll has at most. */
export const MOST_ON_ROLL = 100;

/** Rolls that are cut by a cutter that goes along them by itself. */
export class Rolls {
  readonly #needs: Needs;
  /** Cutters that a roll is put into. */
  readonly #laying = new Set<number>();
  /** By cutter, what its roll was when it was last seen. */
  readonly #known = new Map<number, Pick<CutterRoll, 'id' | 'state'> & { refused: number }>();
  /** By cutter, which prints are on the roll that was last put into it here. */
  readonly #laid = new Map<number, { roll: string; tasks: readonly number[] }>();

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.events.on('cutter seen', ({ machineId, roll }) => this.#tell(machineId, roll));
  }

  /** Wherever somebody is, they are told of what a cutter left alone, and of the end. */
  #tell(machineId: number, roll: CutterRoll | null): void {
    const { events, machines } = this.#needs;
    const before = this.#known.get(machineId);
    if (!roll) {
      this.#known.delete(machineId);
      return;
    }
    const refused = roll.places.filter(({ state }) => state === 'refused');
    this.#known.set(machineId, { id: roll.id, state: roll.state, refused: refused.length });
    if (before?.id !== roll.id) return;
    const { name } = machines.cutter(machineId);
    const last = refused.at(-1);
    if (last && refused.length > before.refused)
      events.send({ kind: 'said', text: `${name} left print ${last.n} of its roll alone: ${last.reason ?? ''}` });
    if (roll.state === before.state) return;
    if (roll.state === 'stopped') events.send({ kind: 'said', text: `${name} stopped: ${roll.reason ?? ''}` });
    if (roll.state === 'done') {
      const cut = roll.places.filter(({ state }) => state === 'cut').length;
      events.send({ kind: 'said', text: `${name} has cut its roll: ${cut} of ${counted(roll.places.length, 'print')}.` });
    }
  }

  /** What lies in a cutter does not wait. */
  waiting(): WaitingRoll[] {
    const inCutters = this.#inCutters();
    const rows = this.#needs.db
      .prepare<[number], WaitingRow>(
        `SELECT k.id, k.code, k.print_code IS NOT NULL AS hasCode, k.reason, q.id AS printId, q.machine_id AS machineId,
           p.name AS printer, p.bed, m.id AS mediaId, m.name AS media, iif(k.part_mm IS NULL, q.length_mm, q.printed_mm) AS lengthMm, coalesce(nullif(o.width_mm, 0), json_extract(m.card, '$.widthMm')) AS widthMm,
           coalesce((SELECT group_concat(name, ', ') FROM (
             SELECT d.name FROM run_docket e JOIN docket d ON d.id = e.docket_id WHERE e.run_id = r.id ORDER BY e.position LIMIT 4)), '') AS names
         FROM cut_task k JOIN print q ON q.id = k.print_id JOIN run r ON r.id = q.run_id JOIN condition c ON c.id = r.condition_id
           JOIN media m ON m.id = c.media_id JOIN machine p ON p.id = q.machine_id LEFT JOIN print_code o ON o.code = coalesce(k.print_code, k.code)
         WHERE k.state = 'waiting' AND p.kind = 'printer' ORDER BY k.id LIMIT ?`
      )
      .all(10 * MOST_ON_ROLL);
    const rolls = new Map<string, WaitingRoll>();
    for (const { machineId, mediaId, printer, media, bed, hasCode, ...print } of rows) {
      const key = `${machineId}-${mediaId}`;
      // Where nobody knows what lies in a cutter it may be any of them.
      if (bed === 'roll' && (inCutters === 'unknown' || inCutters.has(print.id))) continue;
      const roll = rolls.get(key) ?? { key, printer, media, bed, prints: [] };
      if (roll.prints.length < MOST_ON_ROLL) roll.prints.push({ ...print, hasCode: hasCode === 1 });
      rolls.set(key, roll);
    }
    return [...rolls.values()];
  }

  #inCutters(): ReadonlySet<number> | 'unknown' {
    const tasks = new Set<number>();
    for (const { id, cutter } of this.#needs.machines.list()) {
      if (!cutter?.roll) continue;
      const laid = this.#laid.get(id);
      if (laid?.roll !== cutter.roll.id) return 'unknown';
      for (const task of laid.tasks) tasks.add(task);
    }
    return tasks;
  }

  /** A roll is put into a cutter by hand, as it came from the printer or tail first. */
  async lay(machineId: number, tasks: readonly number[], backwards: boolean): Promise<void> {
    const { machines, cuts } = this.#needs;
    const { url, name } = this.#roller(machineId);
    if (this.#laying.has(machineId)) throw new Problem(409, `A roll is being put into ${name} already.`);
    // Before anything is waited for: of two clicks, one puts it in.
    this.#laying.add(machineId);
    try {
      const status = await readCutter(url);
      if (status.busy) throw new Problem(409, `${name} is moving. Stop it, or wait until it stands still.`);
      const rows = tasks.map((id) => cuts.row(id));
      const gone = rows.find(({ state }) => state !== 'waiting');
      const isNow = (row: CutRow) => (row.closed ? `was put down as ${row.closed}` : row.state === 'cut' ? 'is cut' : 'lies in a cutter'); // prettier-ignore
      if (gone) throw new Problem(409, `${gone.code} does not wait on a roll any more: it ${isNow(gone)}.`);
      cuts.emptied(machineId);
      this.#needs.events.changed('cuts');
      await layRoll(url, backwards, this.#pictures(backwards ? rows.toReversed() : rows));
    } finally {
      this.#laying.delete(machineId);
      await machines.look(machineId);
    }
    const roll = machines.cutter(machineId).cutter?.roll;
    if (roll) this.#laid.set(machineId, { roll: roll.id, tasks });
    // Who looked a moment ago saw a roll that nobody knew.
    this.#needs.events.changed('cuts');
  }

  async *#pictures(rows: readonly { print_id: number }[]): AsyncGenerator<Uint8Array<ArrayBuffer>> {
    for (const row of rows) yield new Uint8Array(await this.#needs.printing.output(row.print_id));
  }

  /** Cuts the roll to its end, or goes on. @param server where the cutter asks */
  async start(machineId: number, server: string): Promise<void> {
    const { machines, keys } = this.#needs;
    const { url, name } = this.#roller(machineId);
    const { roll } = await readCutter(url);
    if (!roll) throw new Problem(409, `No roll lies in ${name}. Put one in.`);
    if (roll.state === 'looking' || roll.state === 'cutting') throw new Problem(409, `${name} is cutting the roll already.`);
    await startRoll(url, server, keys.make(machineId, 'roll'));
    await machines.look(machineId);
  }

  async ask(machineId: number, what: 'stop' | 'skip' | 'unload'): Promise<void> {
    await askRoll(this.#roller(machineId).url, what);
    await this.#needs.machines.look(machineId);
  }

  /** Somebody put a new blade in. */
  async newBlade(machineId: number): Promise<void> {
    await newBlade(this.#needs.machines.cutter(machineId).url);
    await this.#needs.machines.look(machineId);
  }

  /**
   * A place that was refused is gone back to.
   *
   * @param how by which number, where its code is not read; which print it is, where that is not seen; all the same, where
   *   something speaks against it
   */
  async again(
    machineId: number,
    n: number,
    how: { code?: string | undefined; isHalfCut?: boolean | undefined; allSame?: boolean | undefined },
    server: string
  ): Promise<void> {
    const { cuts, asking } = this.#needs;
    const { url } = this.#roller(machineId);
    const { roll } = await readCutter(url);
    const place = roll?.places.find((one) => one.n === n);
    if (!roll || !place) throw new Problem(404, 'There is no such place on the roll.');
    if (place.state === 'cutting' || place.state === 'looking') throw new Problem(409, 'It is being cut.');
    const given = how.code === undefined ? undefined : readPrintCode(how.code.split('/')[0]!);
    if (how.code !== undefined && given === undefined)
      throw new Problem(422, `“${how.code.slice(0, 20)}” is no number of a print: ten letters and figures, as 7K3QW-9XZ0A.`);
    const code = given ?? place.code;
    if (code === null) throw new Problem(422, 'Give the number that is printed beside its marks.');
    const tasks = asking.tasks(code);
    if (how.isHalfCut !== undefined) {
      const meant = tasks.find(({ state, lines_cut: lines }) => state === 'waiting' && lines > 0 === how.isHalfCut);
      if (!meant) throw new Problem(409, 'There is no such print of this code any more. Look again.');
      cuts.allow(meant.id);
    } else if (how.allSame) cuts.allow(this.#chosen(place, tasks));
    await cutAgain(url, n, given ?? null);
    if (roll.state !== 'looking' && roll.state !== 'cutting') await this.start(machineId, server);
  }

  /** Which print a place is: the one that was cut there, else the first that waits, else the newest. */
  #chosen(place: RollPlace, tasks: readonly Candidate[]): number {
    const own = tasks.find(({ id }) => id === place.task);
    return (own ?? tasks.find(({ state }) => state === 'waiting') ?? tasks.at(-1)!).id;
  }

  picture(machineId: number, place: number): Promise<Buffer> {
    return rollPicture(this.#needs.machines.cutter(machineId).url, place);
  }

  #roller(machineId: number): Machine {
    const machine = this.#needs.machines.cutter(machineId);
    if (!machine.cutter) throw new Problem(409, `${machine.name} is not reachable. Switch it on.`);
    if (!machine.cutter.abilities.cutsRolls) throw new Problem(409, `${machine.name} does not cut rolls by itself.`);
    return machine;
  }
}
