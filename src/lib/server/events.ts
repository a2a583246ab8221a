/** What the server tells open browsers: that something changed, or how far long work is. */
export type ShopEvent =
  /** The first on a line: how many changes there have been. */
  | { kind: 'hello'; changes: number }
  | { kind: 'changed'; what: 'artwork' | 'dockets' | 'runs' | 'machines' | 'cuts' | 'settings' | 'conditions' }
  /** Something that a person should know, and that no screen waits for. */
  | { kind: 'said'; text: string }
  | { kind: 'task'; task: TaskProgress }
  | {
      kind: 'print';
      print: {
        id: number;
        runId: number;
        machineId: number;
        state: string;
        reason: string | null;
        printedMm: number;
        lengthMm: number;
        /** Of the plates, on their way to the machine, 0…1. */
        sentShare: number;
        secondsLeft: number | null;
      };
    };

export interface TaskProgress {
  id: number;
  kind: string;
  subject: string;
  state: string;
  error: string | null;
  share: number;
  secondsLeft: number | null;
}

export class Events {
  readonly #listeners = new Set<(event: ShopEvent) => void>();
  /** Changes so far: a screen that was made at another count has missed some. */
  changes = 0;

  send(event: ShopEvent): void {
    for (const listener of this.#listeners) listener(event);
  }

  changed(what: Extract<ShopEvent, { kind: 'changed' }>['what']): void {
    this.changes++;
    this.send({ kind: 'changed', what });
  }

  listen(listener: (event: ShopEvent) => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }
}
