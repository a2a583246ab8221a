import { readNumbers } from '$core/records/ranges';
import type { RecordPrinted } from '$lib/server/printing/print';
import type { TablePage } from '$lib/server/records/workers/tables';
import { send } from '$lib/ui/common/client';

/** Whoever goes through records quickly does not ask when each was printed. */
const RESTING_MS = 300;

/** The record of a docket that is shown: its row, and when it was printed. */
export class RecordShown {
  /** Records that are printed, as a list of numbers and ranges says. */
  readonly numbers = $derived.by(() => readNumbers(this.#ranges()));
  /** The one that was asked for, as long as it is among them, and else the first. */
  readonly number = $derived.by(() => {
    const wanted = this.#wanted;
    return wanted !== null && this.numbers.includes(wanted) ? wanted : (this.numbers[0] ?? null);
  });
  row = $state.raw<TablePage['rows'][number]>();
  readonly prints = $derived.by(() => (this.#printed?.number === this.number ? this.#printed.prints : []));
  #wanted = $state<number | null>(null);
  #printed = $state.raw<{ number: number | null; prints: RecordPrinted[] } | null>(null);
  readonly #ranges: () => string;

  constructor(ranges: () => string) {
    this.#ranges = ranges;
  }

  show(number: number): void {
    this.#wanted = number;
  }

  step(by: number): void {
    const { numbers, number } = this;
    const at = number === null ? -1 : numbers.indexOf(number);
    const next = numbers[Math.max(0, Math.min(numbers.length - 1, at + by))];
    if (next !== undefined) this.#wanted = next;
  }

  /** @returns what gives it up, for another record or another table */
  read(docket: number, number: number | null, hash: string | undefined): () => void {
    if (number === null || hash === undefined) {
      this.row = undefined;
      return () => undefined;
    }
    let gone = false;
    void send<TablePage>('GET', `/api/dockets/${docket}/table?records=${number}`)
      .then(({ rows }) => gone || (this.row = rows[0]))
      .catch(() => undefined);
    const resting = setTimeout(() => {
      void send<RecordPrinted[]>('GET', `/api/dockets/${docket}/records/${number}`)
        .then((prints) => gone || (this.#printed = { number, prints }))
        .catch(() => undefined);
    }, RESTING_MS);
    return () => {
      gone = true;
      clearTimeout(resting);
    };
  }
}
