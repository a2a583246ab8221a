import { fullM2 } from '$core/layout/in-pockets';
import { isJig } from '$core/layout/placement';
import { batchWords } from '$lib/batches';
import { PRIORITIES } from '$lib/docket-choices';
import { dayOf, isPast } from '../platform/days';
import type { Lane } from '../production/lanes';
import type { Machine } from '../machines/machines';
import { sentence } from '../platform/problem';
import type { Run } from '../production/run';
import { timesByItself } from '../production/run-rules';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { Lanes } from '../production/lanes';
import type { Logger } from 'pino';
import type { Machines } from '../machines/machines';
import type { Prints } from './print-store';
import type { Printing } from './printing';
import type { Ripping } from '../production/ripping';
import type { Runs } from '../production/run-store';

const LOOK_EVERY_MS = 1000;

/** What it works with. */
interface Needs {
  db: Db;
  events: Events;
  lanes: Lanes;
  log: Logger;
  machines: Machines;
  prints: Prints;
  printing: Printing;
  ripping: Ripping;
  runs: Runs;
}

/** Releases lanes that release by themselves, and prints what is released when its media is loaded and its machine free. */
export class Releasing {
  readonly #needs: Needs;
  /** By run: why a release by itself did not work; it is not tried again until the run changes. */
  readonly #failed = new Map<number, number>();
  #timer: NodeJS.Timeout | undefined;
  #looking = false;
  #stopped = false;

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.events.on('run released', () => this.look());
    needs.events.on('print ended', () => this.look());
  }

  start(): void {
    this.#timer = setInterval(() => this.look(), LOOK_EVERY_MS);
  }

  stop(): void {
    this.#stopped = true;
    clearInterval(this.#timer);
  }

  look(): void {
    if (this.#looking || this.#stopped) return;
    this.#looking = true;
    this.#look()
      .catch((error: unknown) => this.#needs.log.error({ error: String(error) }, 'releasing failed'))
      .finally(() => (this.#looking = false));
  }

  /** Releases all open runs of a lane, or of all lanes. @returns how many, and why others were not */
  async releaseAll(laneId?: number): Promise<{ released: number; refused: string[] }> {
    const open = this.#open().filter((run) => laneId === undefined || run.laneId === laneId);
    const refused: string[] = [];
    let released = 0;
    for (const run of open) {
      try {
        await this.#needs.ripping.release(run.id);
        released++;
      } catch (error) {
        refused.push(`Run ${run.id}: ${sentence(error)}`);
      }
    }
    return { released, refused };
  }

  #open(): Run[] {
    return this.#needs.runs
      .open()
      .filter((run) => (run.state === 'laying out' || run.state === 'ripped') && run.releasedAt === null && run.laid.length > 0);
  }

  async #look(): Promise<void> {
    const { lanes, db } = this.#needs;
    const timed = lanes.list().filter((lane) => lane.release.kind !== 'hand');
    if (timed.length > 0) {
      const open = this.#open();
      for (const lane of timed)
        for (const run of open.filter((one) => one.laneId === lane.id && !one.byHand && this.#failed.get(one.id) !== one.version))
          if (isDue(lane, run, new Date())) await this.#releaseByItself(lane, run);
    }
    const waiting = db
      .prepare<[], { n: number }>("SELECT count(*) AS n FROM run WHERE released_at IS NOT NULL AND state = 'ripped'")
      .get();
    if (waiting?.n) await this.#print();
  }

  async #releaseByItself(lane: Lane, run: Run): Promise<void> {
    const { ripping, lanes, events, log } = this.#needs;
    // Before it is done: what goes wrong must not be tried every second.
    if (lane.release.kind === 'at') lanes.releasedToday(lane.id, dayOf(new Date()));
    try {
      // Of sheets those that are full; what is begun waits for more.
      const [{ release }, { stock }] = [lane, run];
      await ripping.release(run.id, {
        fullM2: release.kind === 'full' && stock.kind === 'sheet' ? release.share * fullM2(stock) : 0
      });
    } catch (error) {
      this.#failed.set(run.id, run.version);
      log.warn({ run: run.id, error: sentence(error) }, 'a run could not be released by itself');
      events.send({ kind: 'said', text: `Run ${run.id} could not be released by itself: ${sentence(error)}` });
    }
  }

  /** On every machine that is free, the most urgent run that it can print now. */
  async #print(): Promise<void> {
    const { machines, runs, prints, printing, log } = this.#needs;
    const busy = prints.busyMachines();
    const released = runs.open().filter((run) => run.releasedAt !== null && run.state === 'ripped');
    for (const machine of machines.list()) {
      if (machine.kind !== 'printer' || busy.has(machine.id)) continue;
      const next = released
        .filter((run) => this.#canPrint(run, machine))
        .sort(
          (p, q) =>
            urgency(p) - urgency(q) || due(p).localeCompare(due(q)) || (p.releasedAt ?? 0) - (q.releasedAt ?? 0) || p.id - q.id
        )[0];
      if (!next) continue;
      // Another may have begun meanwhile, or the media been changed: it is looked at again in a second.
      await printing
        .start(next.id, machine.id)
        .catch((error: unknown) => log.info({ run: next.id, error: sentence(error) }, 'not printed by itself'));
    }
  }

  #canPrint = (run: Run, machine: Machine): boolean =>
    run.condition.machineId === machine.id && waitsFor(this.#needs.printing, run, machine) === undefined;
}

/** Why a released run does not print by itself now; nothing when it does. A person may print panels from another batch, and what was laid into a jig, nobody else. */
export function waitsFor(printing: Printing, run: Run, machine: Machine): string | undefined {
  const hindrance = printing.hindrance(run, machine, timesByItself(run));
  if (hindrance !== undefined) return hindrance;
  if (isJig(run.stock)) return `its things are laid into ${run.stock.jig.name} by hand. Print it here once they are.`;
  const batches = printing.batches(run, machine);
  const { words, isOther } = batches ? batchWords(batches) : { words: '', isOther: false };
  return isOther ? `${words} Or print it here by hand.` : undefined;
}

/** Whether a lane's own rule says that a run is to print now. */
export function isDue(
  lane: Pick<Lane, 'release' | 'quietMs' | 'releasedOn'>,
  run: Pick<Run, 'layout' | 'provisional' | 'stock'>,
  now: Date
): boolean {
  const { release } = lane;
  switch (release.kind) {
    case 'hand':
      return false;
    case 'quiet':
      return lane.quietMs >= release.minutes * 60_000;
    case 'full': {
      if (run.provisional) return false;
      if (run.stock.kind === 'roll') return run.layout.length >= release.lengthMm;
      const fullest = Math.max(0, ...run.layout.parts.map((part) => part.usedM2));
      return fullest >= release.share * fullM2(run.stock);
    }
    case 'at':
      return lane.releasedOn !== dayOf(now) && isPast(release.time, now);
  }
}

const urgency = (run: Run): number =>
  Math.min(...run.dockets.map((docket) => PRIORITIES.length - PRIORITIES.indexOf(docket.priority)));
const due = (run: Run): string => run.dockets.map((docket) => docket.dueOn || '9999').sort()[0] ?? '9999';
