import { copiesIn, inkCounted, runCosts, shareOf, takenBy, type CountedInk, type Rates } from '$core/layout/run-costs';
import { NO_INK, sumOfInk, timesInk } from '$core/inks/ink-prices';
import type { LaidInk, LaidOn } from '$core/inks/laid-ink';
import type { Placement } from '$core/layout/placement';
import { inkByPiece, printedOf, type ClipOf } from '$core/layout/printed-parts';
import type { RunPiece } from '$core/layout/run-piece';

/** A run as it is seen. */
interface Seen {
  layout: Placement;
  pieces: ReadonlyMap<string, RunPiece>;
  /** What of them prints where they lie. */
  clipOf: ClipOf;
  rates: Rates;
  condition: LaidOn;
  /** What a docket's picture takes, by docket, as far as it is known. */
  inks: Readonly<Record<number, readonly LaidInk[]>>;
  /** What the shop pays for a ml of any ink. */
  inkPerMl: number;
  /** The ink of one print by its plates, and by docket where they tell it; none while they are not of what is seen. */
  counted: CountedInk | null;
}

/** What a run takes and costs, and each of its dockets of it. */
export class RunMoney {
  readonly #seen: () => Seen;
  readonly #taken = $derived.by(() => {
    const { layout, pieces, clipOf, condition, rates, inks, inkPerMl, counted } = this.#seen();
    const printed = printedOf(layout.parts, pieces, clipOf);
    const ink = inkByPiece(printed, (docket) => inks[Number(docket)] ?? [], condition, inkPerMl);
    const taken = takenBy(layout, pieces, rates.times, (id) => ink.get(id) ?? NO_INK);
    return counted?.byDocket ? inkCounted(taken, counted.byDocket, rates.times) : taken;
  });
  readonly ink = $derived.by(() => {
    const { counted, rates } = this.#seen();
    if (counted) return { ...timesInk(counted.all, rates.times), counted: true };
    return { ...sumOfInk([...this.#taken.values()].map(({ ink }) => ink)), counted: false };
  });
  readonly costs = $derived.by(() => {
    const { layout, rates } = this.#seen();
    return runCosts(layout, this.ink.cost, rates);
  });

  constructor(seen: () => Seen) {
    this.#seen = seen;
  }

  /** The same copies take the same ink however they lie; one that is claimed takes its share more. */
  costsOf(other: Placement) {
    const { layout, rates } = this.#seen();
    const copies = copiesIn(layout);
    return runCosts(other, copies > 0 ? (this.ink.cost * copiesIn(other)) / copies : 0, rates);
  }

  /** A docket's part; none where none of it lies there. */
  shareOf(docket: number): { cost: number; waste: number } | undefined {
    return shareOf(docket, this.#taken, this.costs, this.#seen().layout.wasteShare, this.ink);
  }
}
