import { copiesIn, runCosts, shareOf, takenBy, type Rates } from '$core/layout/run-costs';
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
  /** ml of one print by its plates; none while they are not of what is seen. */
  countedMl: number | null;
}

/** What a run takes and costs, and each of its dockets of it. */
export class RunMoney {
  readonly #seen: () => Seen;
  readonly #taken = $derived.by(() => {
    const { layout, dockets, rates, inks } = this.#seen();
    return takenBy(
      layout,
      dockets,
      rates.times,
      (id) => inks[id],
      (piece) => this.#partOfDocket(piece)
    );
  });
  readonly ink = $derived.by(() => {
    const { countedMl, rates } = this.#seen();
    if (countedMl !== null) return { ml: countedMl * rates.times, counted: true };
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
    const { layout, rates } = this.#seen();
    return shareOf(docket, this.#taken, this.costs, layout.wasteShare, rates.inkPerMl);
  }

  /** A panel counts for what it is of its wall. */
  #partOfDocket(id: string): number {
    const { pieces, dockets } = this.#seen();
    const piece = pieces.get(id);
    const choices = piece?.panel && dockets.find((docket) => String(docket.id) === piece.docket)?.choices;
    return choices ? (piece.widthMm * piece.heightMm) / (choices.widthMm * choices.heightMm) : 1;
  }
}
