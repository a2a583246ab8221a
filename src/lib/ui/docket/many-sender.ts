import type { ManyChange } from '$lib/docket-choices';

/** How long the next keystroke is waited for. */
const PAUSE_MS = 300;

/** Sends changes of many dockets one after another, in the order that they were made; those of one breath together. */
export class ManySender {
  readonly #send: (ids: readonly number[], change: ManyChange) => Promise<unknown>;
  #waiting: { ids: readonly number[]; change: ManyChange } | undefined;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #busy: Promise<unknown> = Promise.resolve();

  constructor(send: (ids: readonly number[], change: ManyChange) => Promise<unknown>) {
    this.#send = send;
  }

  add(ids: readonly number[], change: ManyChange): void {
    if (this.#waiting && this.#waiting.ids.join() !== ids.join()) this.flush();
    const before = this.#waiting?.change;
    const choices = { ...before?.choices, ...change.choices };
    this.#waiting = { ids, change: { ...before, ...change, ...(Object.keys(choices).length > 0 && { choices }) } };
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => this.flush(), PAUSE_MS);
  }

  /** Sends what waits at once. */
  flush(): void {
    clearTimeout(this.#timer);
    const waiting = this.#waiting;
    this.#waiting = undefined;
    if (waiting) this.#busy = this.#busy.then(() => this.#send(waiting.ids, waiting.change));
  }
}
