import { createHash } from 'node:crypto';
import type { Placement } from '$core/layout/placing';
import { layOutRun } from '$core/layout/run-layout';
import type { Shop } from './shop';
import type { LayoutRequest } from './tasks/workers/layout';

const MOST_KEPT = 200;
/** These are done at once. */
const AT_ONCE = new Set(['apart', 'rows', 'hand']);

/** Layouts of runs: computed in a thread where that takes long, and kept, since the same run has the same layout. */
export class Placements {
  readonly #shop: Shop;
  readonly #kept = new Map<string, Placement>();
  readonly #working = new Map<string, Promise<Placement>>();

  constructor(shop: Shop) {
    this.#shop = shop;
  }

  static key = (request: LayoutRequest): string => createHash('sha256').update(JSON.stringify(request)).digest('hex');

  /** The layout, or one in rows until it is there; a change is told when it is. */
  now(request: LayoutRequest): { layout: Placement; provisional: boolean } {
    const kept = this.#kept.get(Placements.key(request));
    if (kept) return { layout: kept, provisional: false };
    const { stock, rule, dockets, pins } = request;
    if (AT_ONCE.has(rule.placing) || dockets.length === 0) {
      const layout = layOutRun(stock, rule, dockets, pins);
      this.#keep(Placements.key(request), layout);
      return { layout, provisional: false };
    }
    if (!this.#working.has(Placements.key(request)))
      this.get(request).then(
        () => this.#shop.events.changed('runs'),
        (error: unknown) => {
          if (!this.#shop.tasks.closed) this.#shop.log.error({ error: String(error) }, 'layout failed');
        }
      );
    return { layout: layOutRun(stock, { ...rule, placing: 'rows' }, dockets, pins), provisional: true };
  }

  async get(request: LayoutRequest): Promise<Placement> {
    const key = Placements.key(request);
    const kept = this.#kept.get(key);
    if (kept) return kept;
    const working = this.#working.get(key);
    if (working) return working;
    const work = (this.#shop.layoutPool.run(request, { name: 'layOut' }) as Promise<Placement>)
      .then((layout) => {
        this.#keep(key, layout);
        return layout;
      })
      .finally(() => this.#working.delete(key));
    this.#working.set(key, work);
    return work;
  }

  #keep(key: string, layout: Placement): void {
    this.#kept.set(key, layout);
    const [oldest] = this.#kept.keys();
    if (this.#kept.size > MOST_KEPT && oldest !== undefined) this.#kept.delete(oldest);
  }
}
