import type { Check, CheckInput } from '$core/checks/check';
import { checkLines } from '$core/checks/check-docket';
import LineWorker from './line-checks.worker?worker';

/** Lines of fewer nodes are looked at at once: that takes some milliseconds. */
const AT_ONCE = 400;

/** Findings on cut lines: at once where there are few, otherwise by a worker, the newest question alone. */
export class LineChecks {
  found = $state.raw<Check[]>([]);
  busy = $state(false);
  #worker: Worker | undefined;
  #turn = 0;

  look(input: CheckInput): void {
    const turn = ++this.#turn;
    if (this.busy) this.close();
    if (input.lines.reduce((sum, line) => sum + line.outline.length, 0) <= AT_ONCE) {
      this.found = checkLines(input);
      return;
    }
    this.busy = true;
    this.#worker ??= new LineWorker();
    this.#worker.onmessage = ({ data }: MessageEvent<{ turn: number; checks: Check[] }>) => {
      if (data.turn !== this.#turn) return;
      this.found = data.checks;
      this.busy = false;
    };
    // It answers no more: it is begun anew with the next change.
    this.#worker.onerror = () => this.close();
    this.#worker.postMessage({ turn, input });
  }

  /** Ends a look that nobody waits for any more. */
  close(): void {
    this.#worker?.terminate();
    this.#worker = undefined;
    this.busy = false;
  }
}
