import { isJig, PLACING_RULES, type Placement, type PlacingRule } from '$core/layout/placement';
import CompareWorker from './compare.worker?worker';
import type { CompareAnswer, CompareQuestion } from './compare.worker';

interface Found {
  layout: Placement;
  steps: number;
  done: boolean;
}

/** The placing rules of a run side by side: a worker looks for better and better layouts until it is done or stopped. */
export class Comparing {
  found = $state.raw<Partial<Record<PlacingRule, Found>>>({});
  /** Figures shown are of an older question, until the first answer. */
  stale = $state(false);
  busy = $state(false);
  #worker: Worker | undefined;
  #turn = 0;
  #asked = '';

  ask(question: Omit<CompareQuestion, 'turn' | 'pins'> & { pins: readonly CompareQuestion['pins'][number][] }): void {
    const asked = JSON.stringify(question);
    if (asked === this.#asked) return;
    this.#asked = asked;
    const turn = ++this.#turn;
    const awaited = isJig(question.stock) ? 1 : PLACING_RULES.length;
    this.busy = this.stale = true;
    this.#worker ??= new CompareWorker();
    this.#worker.onmessage = ({ data }: MessageEvent<CompareAnswer>) => {
      if (data.turn !== this.#turn) return;
      const before = this.stale ? {} : this.found;
      const layout = data.layout ?? before[data.placing]?.layout;
      this.found = { ...before, ...(layout && { [data.placing]: { layout, steps: data.steps, done: data.done } }) };
      this.stale = false;
      if (Object.values(this.found).filter((one) => one.done).length === awaited) this.busy = false;
    };
    // It answers no more: the server's own layout is shown, and the next change begins it anew.
    this.#worker.onerror = () => this.close();
    this.#worker.postMessage({ turn, ...(JSON.parse(asked) as Omit<CompareQuestion, 'turn'>) });
  }

  /** Keeps the best so far. */
  stop(): void {
    this.#worker?.postMessage({ stop: true });
    this.#turn++;
    this.busy = false;
  }

  close(): void {
    this.#worker?.terminate();
    this.#worker = undefined;
    this.#turn++;
    this.#asked = '';
    this.busy = false;
  }
}
