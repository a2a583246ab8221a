import { toast } from 'svelte-sonner';
import { isJig, pinOf, type Item, type Pin, type PlacedCopy, type Placement, type Stock } from '$core/layout/placement';
import type { RunRule } from '$lib/run-rule';
import { copiesIn } from '$core/layout/run-costs';
import { alignPins, distributePins, isSame, pinBox, pinsOverlap, snap, type CopyOf, type Edge } from './by-hand';
import { inPockets, movesBy, type PocketMove } from './in-pockets';

/** Copies that are put where they are by hand, at most; those of a larger run are not all pinned at once. */
export const MOST_PINS = 2000;
const SNAP_MM = 5;

/** A run as it is seen. */
interface Seen {
  layout: Placement;
  stock: Stock;
  rule: RunRule;
  items: ReadonlyMap<string, Item>;
  pins: readonly Pin[];
}

/** What is taken in hand of a run: which copies are chosen, and how they are moved. What cannot lie so is said, and stays. */
export class Hand {
  selected = $state.raw<CopyOf[]>([]);
  /** Those that are chosen, as they lie. */
  readonly found = $derived.by(() => {
    const { layout } = this.#seen();
    return this.selected.flatMap((name): { copy: PlacedCopy; pin: Pin }[] => {
      const copy = layout.parts[name.part]?.copies.find((one) => one.id === name.id && one.copy === name.copy);
      return copy ? [{ copy, pin: pinOf(copy, name.part) }] : [];
    });
  });
  readonly #seen: () => Seen;
  readonly #change: (pins: Pin[], rule?: Partial<RunRule>) => void;

  constructor(seen: () => Seen, change: (pins: Pin[], rule?: Partial<RunRule>) => void) {
    this.#seen = seen;
    this.#change = change;
  }

  get #pins(): Pin[] {
    return this.found.map(({ pin }) => pin);
  }

  /** None of them has to stay upright. */
  get mayTurn(): boolean {
    const { items } = this.#seen();
    return this.found.every(({ copy }) => items.get(copy.id)?.mayTurn);
  }

  /** They stay where they are from now on, or need not any more. */
  hold(on: boolean): void {
    if (on) this.#put(this.#pins);
    else this.#change(this.#seen().pins.filter((one) => !this.selected.some((name) => isSame(one, name))));
  }

  turn(): void {
    const { items } = this.#seen();
    this.#put(
      this.#pins.map((pin) => {
        const before = pinBox(pin, items);
        const next = { ...pin, turn: (pin.turn + 90) % 360 };
        const after = pinBox(next, items);
        return { ...next, x: pin.x + (before.width - after.width) / 2, y: pin.y + (before.height - after.height) / 2 };
      })
    );
  }

  align(edge: Edge): void {
    this.#put(alignPins(this.#pins, edge, this.#seen().items));
  }

  distribute(along: boolean): void {
    this.#put(distributePins(this.#pins, along, this.#seen().items));
  }

  nudge(dx: number, dy: number): void {
    this.#put(this.#pins.map((pin) => ({ ...pin, x: pin.x + dx, y: pin.y + dy })));
  }

  /** Moved by dragging: into another pocket of a jig, and else to where something is within reach. */
  drag(names: readonly CopyOf[], dx: number, dy: number): void {
    const { layout, stock, rule, items } = this.#seen();
    if (isJig(stock)) {
      this.#putInPockets(movesBy(stock.jig, layout, names, dx, dy));
      return;
    }
    const isDragged = (one: CopyOf) => names.some((name) => isSame(one, name));
    const pins = this.#pins.filter(isDragged);
    const [first] = pins;
    if (!first) return;
    const box = pinBox({ ...first, x: first.x + dx, y: first.y + dy }, items);
    const others = (layout.parts[first.part]?.copies ?? []).filter((copy) => !isDragged({ ...copy, part: first.part }));
    const to = snap(box, rule.placing === 'shapes' ? [] : others, stock, rule, SNAP_MM);
    this.#put(pins.map((pin) => ({ ...pin, x: pin.x + to.x - first.x, y: pin.y + to.y - first.y })));
  }

  toPocket(pocket: number): void {
    const [one] = this.found;
    if (one) this.#putInPockets([{ id: one.copy.id, copy: one.copy.copy, part: one.pin.part, pocket }]);
  }

  /** Copies go into other pockets, and what lies there comes into theirs. */
  #putInPockets(moves: readonly PocketMove[]): void {
    const { layout, rule } = this.#seen();
    const count = copiesIn(layout);
    if (count > MOST_PINS) {
      toast.error(`${count} copies are too many to be put in pockets by hand; ${MOST_PINS} are the most.`, { id: 'pins' });
      return;
    }
    const pins = inPockets(layout, moves);
    if (pins) this.#change(pins, { pockets: { ...rule.pockets, sharing: 'by hand' } });
  }

  /** Puts copies where they are to stay; refused where they would lie on others. */
  #put(next: readonly Pin[]): void {
    const { pins: before, items, stock, rule } = this.#seen();
    const pins = [...before.filter((one) => !next.some((mine) => isSame(one, mine))), ...next];
    const why = pinsOverlap(pins, next, items, stock, rule);
    if (why) toast.error(why, { id: 'pins' });
    else this.#change(pins);
  }
}
