import { copiesIn, inkCounted, runCosts, shareOf, takenBy, type Rates } from '$core/layout/run-costs';
import { pieceOf } from '$core/layout/pieces';
import type { Placement } from '$core/layout/placement';
import type { RunPiece } from '$core/layout/run-piece';
import type { Docket } from '$lib/server/dockets/dockets';

/** A run as it is seen. */
interface Seen {
  layout: Placement;
  dockets: readonly Docket[];
  pieces: ReadonlyMap<string, RunPiece>;
  rates: Rates;
  /** ml of one copy, by docket, as far as it is known. */
  inks: Readonly<Record<number, number>>;
  /** ml of one print by its plates, and by docket where they tell it; none while they are not of what is seen. */
  counted: { ml: number; byDocket: Readonly<Record<number, number>> | undefined } | null;
}

/** What a run takes and costs, and each of its dockets of it. */
export class RunMoney {
  readonly #seen: () => Seen;
  readonly #taken = $derived.by(() => {
    const { layout, pieces, rates, counted } = this.#seen();
    const taken = takenBy(layout, pieces, rates.times, (piece) => this.#mlOf(piece));
    return counted?.byDocket ? inkCounted(taken, counted.byDocket, rates.times) : taken;
  });
  readonly ink = $derived.by(() => {
    const { counted, rates } = this.#seen();
    if (counted) return { ml: counted.ml * rates.times, counted: true };
    return { ml: [...this.#taken.values()].reduce((sum, { inkMl }) => sum + inkMl, 0), counted: false };
  });
  readonly costs = $derived.by(() => {
    const { layout, rates } = this.#seen();
    return runCosts(layout, this.ink.ml, rates);
  });

  constructor(seen: () => Seen) {
    this.#seen = seen;
  }

  /** The same copies take the same ink however they lie; one that is claimed takes its share more. */
  costsOf(other: Placement) {
    const { layout, rates } = this.#seen();
    const copies = copiesIn(layout);
    return runCosts(other, copies > 0 ? (this.ink.ml * copiesIn(other)) / copies : 0, rates);
  }

  /** A docket's part; none where none of it lies there. */
  shareOf(docket: number): { cost: number; waste: number } | undefined {
    return shareOf(docket, this.#taken, this.costs, this.#seen().layout.wasteShare, this.ink.ml);
  }

  /** Of one copy of a piece; a panel takes what it is of its wall. */
  #mlOf(id: string): number {
    const { pieces, dockets, inks } = this.#seen();
    const docket = Number(pieceOf(id).docket);
    const piece = pieces.get(id);
    const choices = piece?.panel && dockets.find((one) => one.id === docket)?.choices;
    const part = choices ? (piece.widthMm * piece.heightMm) / (choices.widthMm * choices.heightMm) : 1;
    return (inks[docket] ?? 0) * part;
  }
}
