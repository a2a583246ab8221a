import type { Placement } from '$core/layout/placement';
import { layOutRun } from '$core/layout/run-layout';
import { digest } from '../platform/digest';
import { Problem } from '../platform/problem';
import type { Events } from '../platform/events';
import type { Piscina } from 'piscina';
import type { Logger } from 'pino';
import type { TaskRunner } from '../platform/tasks/runner';
import type { LayoutRequest } from './workers/layout';

const MOST_KEPT = 200;
/** These are done at once. */
const AT_ONCE = new Set(['apart', 'rows', 'hand']);

/** What it works with. */
interface Needs {
  events: Events;
  layoutPool: Piscina;
  log: Logger;
  tasks: TaskRunner;
}

/** Layouts of runs: computed in a thread where that takes long, and kept, since the same run has the same layout. */
export class Placements {
  readonly #needs: Needs;
  readonly #kept = new Map<string, Placement>();
  /** By run: what is looked for now. */
  readonly #working = new Map<number, { key: string; work: Promise<Placement>; stop: AbortController }>();

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  static key = (request: LayoutRequest): string => digest(request);

  /**
   * The layout of a run, or one in rows until it is there; a change is told when it is. What was looked for before the
   * run changed is given up.
   */
  now(run: number, request: LayoutRequest): { layout: Placement; provisional: boolean } {
    const key = Placements.key(request);
    const kept = this.#kept.get(key);
    if (kept) return { layout: kept, provisional: false };
    const { stock, rule, pieces, pins } = request;
    if (AT_ONCE.has(rule.placing) || pieces.length === 0) {
      const layout = layOutRun(stock, rule, pieces, pins);
      this.#keep(key, layout);
      return { layout, provisional: false };
    }
    // Who waits for it is told by the change; what went wrong is in the log.
    this.get(run, request).catch(() => undefined);
    return { layout: this.now(run, { ...request, rule: { ...rule, placing: 'rows' } }).layout, provisional: true };
  }

  /** @throws Problem when the run is changed meanwhile */
  async get(run: number, request: LayoutRequest): Promise<Placement> {
    const key = Placements.key(request);
    const kept = this.#kept.get(key);
    if (kept) return kept;
    const before = this.#working.get(run);
    if (before?.key === key) return before.work;
    before?.stop.abort();
    const stop = new AbortController();
    const work = this.#look(run, key, request, stop.signal);
    this.#working.set(run, { key, work, stop });
    try {
      return await work;
    } finally {
      if (this.#working.get(run)?.work === work) this.#working.delete(run);
    }
  }

  async #look(run: number, key: string, request: LayoutRequest, signal: AbortSignal): Promise<Placement> {
    const { layoutPool, events, tasks, log } = this.#needs;
    try {
      const layout = (await layoutPool.run(request, { name: 'layOut', signal })) as Placement;
      this.#keep(key, layout);
      events.changed('runs', [run]);
      return layout;
    } catch (error) {
      if (signal.aborted) throw new Problem(409, 'The run was changed while it was laid out. Try again.');
      if (!tasks.closed) log.error({ error: String(error) }, 'layout failed');
      throw error;
    }
  }

  #keep(key: string, layout: Placement): void {
    this.#kept.set(key, layout);
    const [oldest] = this.#kept.keys();
    if (this.#kept.size > MOST_KEPT && oldest !== undefined) this.#kept.delete(oldest);
  }
}
