import type { Box } from '../geometry/box';
import type { Point } from '../geometry/matrix';
import { EPS, type Field, type Lot, type Packed, type Spot } from './skyline';

/**
 * Rectangles that straight cuts free: sections across the roll, each as long as its first piece, filled by dividing what is free
 * with cuts from edge to edge. Zhang, Kang, Deng 2006 (heuristic recursion), with fitness of a place as in the skyline.
 */

/** Of so many pieces the one that a section is begun with is chosen. */
const CANDIDATES = 4;

/** How well a piece fits a free rectangle. */
function fitness(w: number, h: number, room: number, high: number): number {
  const wide = room - w < EPS;
  const tall = high - h < EPS;
  return wide && tall ? 4 : wide || tall ? 2 : 0;
}

/** What is free of a bin around pieces that stay where they are, as straight cuts free it; from `from` on all is free. */
export interface Clearing {
  leaves: Box[];
  from: number;
}

/**
 * Clears a bin around pinned pieces with straight cuts.
 *
 * @param pinned gaps included
 * @returns nothing where they interlock, so that no straight cuts free them
 */
export function clearAround(pinned: readonly Box[], width: number): Clearing | undefined {
  const from = Math.max(0, ...pinned.map((rect) => rect.y + rect.height));
  const leaves: Box[] = [];
  const clear = (region: Box, inside: readonly Box[], across: boolean, stuck: boolean): boolean => {
    if (inside.length === 0) {
      if (region.width > EPS && region.height > EPS) leaves.push(region);
      return true;
    }
    const start = (r: Box) => (across ? r.y : r.x);
    const size = (r: Box) => (across ? r.height : r.width);
    const groups = groupsAlong(inside, start, size);
    if (groups.length === 1 && stuck && inside.length > 1) return false;
    let at = start(region);
    const end = at + size(region);
    const part = (a: number, b: number): Box => (across ? { ...region, y: a, height: b - a } : { ...region, x: a, width: b - a });
    for (const group of groups) {
      const a = group.reduce((least, r) => Math.min(least, start(r)), Infinity);
      const b = group.reduce((most, r) => Math.max(most, start(r) + size(r)), -Infinity);
      if (a - at > EPS) leaves.push(part(at, a));
      if (!(inside.length === 1 && stuck) && !clear(part(a, b), group, !across, groups.length === 1)) return false;
      at = b;
    }
    if (end - at > EPS) leaves.push(part(at, end));
    return true;
  };
  if (!clear({ x: 0, y: 0, width, height: from }, pinned, true, false)) return undefined;
  return { leaves: leaves.filter((r) => r.width > EPS && r.height > EPS).sort((p, q) => p.y - q.y || p.x - q.x), from };
}

/** Pieces in groups between which a straight cut can pass. */
function groupsAlong<R>(rects: readonly R[], start: (r: R) => number, size: (r: R) => number): R[][] {
  const groups: R[][] = [];
  let end = -Infinity;
  for (const r of [...rects].sort((p, q) => start(p) - start(q))) {
    if (start(r) >= end - 1e-4) groups.push([]);
    groups.at(-1)?.push(r);
    end = Math.max(end, start(r) + size(r));
  }
  return groups;
}

/**
 * How many straight cuts, each through the whole of what it divides, free every piece of a region.
 *
 * @returns nothing where pieces interlock
 */
export function countStraightCuts(pieces: readonly Box[], region: Box): number | undefined {
  const count = (inside: readonly Box[], within: Box, across: boolean, stuck: boolean): number | undefined => {
    const start = (r: Box) => (across ? r.y : r.x);
    const size = (r: Box) => (across ? r.height : r.width);
    const groups = groupsAlong(inside, start, size);
    if (groups.length === 1 && stuck && inside.length > 1) return undefined;
    let cuts = 0;
    let at = start(within);
    const last = groups.length - 1;
    for (const [i, group] of groups.entries()) {
      const a = group.reduce((least, r) => Math.min(least, start(r)), Infinity);
      const b = group.reduce((most, r) => Math.max(most, start(r) + size(r)), -Infinity);
      if (a - at > TOUCHING) cuts++;
      // The cut behind this one frees the next too where no gap lies between.
      if (i < last || start(within) + size(within) - b > TOUCHING) cuts++;
      at = b;
      const inner: Box = across ? { ...within, y: a, height: b - a } : { ...within, x: a, width: b - a };
      if (inside.length === 1 && stuck) continue;
      const more = count(group, inner, !across, groups.length === 1);
      if (more === undefined) return undefined;
      cuts += more;
    }
    return cuts;
  };
  return pieces.length === 0 ? 0 : count(pieces, region, true, false);
}

/** A cut from edge to edge of what it divides. */
export interface StraightCut {
  from: Point;
  to: Point;
}

/**
 * The straight cuts that free every piece of a region, in their order: what lies in a section is freed before the section is
 * cut off, so that the media is held until then.
 *
 * @param beyond cuts go on past their ends by so much, mm, so that corners come free
 * @returns nothing where pieces interlock
 */
export function straightCuts(pieces: readonly Box[], region: Box, beyond = 0): StraightCut[] | undefined {
  /** @param edges whether those of the region are cut already, across and along */
  const divide = (
    inside: readonly Box[],
    within: Box,
    across: boolean,
    stuck: boolean,
    edges: readonly [across: boolean, along: boolean]
  ): StraightCut[] | undefined => {
    const start = (r: Box) => (across ? r.y : r.x);
    const size = (r: Box) => (across ? r.height : r.width);
    const groups = groupsAlong(inside, start, size);
    if (groups.length === 1 && stuck && inside.length > 1) return undefined;
    const cuts: StraightCut[] = [];
    const cutAt = (place: number) => {
      const { x, y, width, height } = within;
      cuts.push(
        across
          ? { from: { x: x - beyond, y: place }, to: { x: x + width + beyond, y: place } }
          : { from: { x: place, y: y - beyond }, to: { x: place, y: y + height + beyond } }
      );
    };
    const areCut = edges[across ? 0 : 1];
    const end = start(within) + size(within);
    let at = areCut ? start(within) : -Infinity;
    for (const group of groups) {
      const a = group.reduce((least, r) => Math.min(least, start(r)), Infinity);
      const b = group.reduce((most, r) => Math.max(most, start(r) + size(r)), -Infinity);
      // Where no gap lies between, the cut behind the piece before it is this one's too.
      if (a - at > TOUCHING) cutAt(a);
      at = b;
      const inner: Box = across ? { ...within, y: a, height: b - a } : { ...within, x: a, width: b - a };
      const more =
        inside.length === 1 && stuck
          ? []
          : divide(group, inner, !across, groups.length === 1, across ? [true, edges[1]] : [edges[0], true]);
      if (more === undefined) return undefined;
      cuts.push(...more);
      if (!areCut || end - b > TOUCHING) cutAt(b);
    }
    return cuts;
  };
  return pieces.length === 0 ? [] : divide(pieces, region, true, false, [false, false]);
}
/** Nearer to each other than a cutter steps (HP-GL, 0.025 mm), two cuts are one, mm. */
export const TOUCHING = 0.02;

/** The pieces that are left, in the order in which they are looked at: a list that can be put back as it was. */
class OpenLots {
  /** By lot, how many are left; and by lot, which comes after it. What is at `last` comes first, and −1 ends the list. */
  readonly counts: Int32Array;
  readonly next: Int32Array;
  readonly last: number;

  constructor(counts: ArrayLike<number>, order: ArrayLike<number>) {
    const n = counts.length;
    this.last = n;
    this.counts = Int32Array.from(counts);
    this.next = new Int32Array(n + 1);
    for (let i = 0; i < n; i++) this.next[i === 0 ? n : order[i - 1]!] = order[i]!;
    this.next[n > 0 ? order[n - 1]! : n] = -1;
  }

  get first(): number {
    return this.next[this.last]!;
  }

  /** @param before the one before it in the list */
  take(lot: number, before: number): void {
    if (--this.counts[lot]! === 0) this.next[before] = this.next[lot]!;
  }

  copyTo(other: Pick<OpenLots, 'counts' | 'next'>): void {
    other.counts.set(this.counts);
    other.next.set(this.next);
  }

  restore(from: Pick<OpenLots, 'counts' | 'next'>): void {
    this.counts.set(from.counts);
    this.next.set(from.next);
  }

  /** Somewhere to keep the list. */
  room(): Pick<OpenLots, 'counts' | 'next'> {
    return { counts: new Int32Array(this.counts.length), next: new Int32Array(this.next.length) };
  }
}

/** Fills bins with pieces that straight cuts, each through the whole of what it divides, free. */
class GuillotineFill {
  readonly #lots: readonly Lot[];
  readonly #field: Field;
  readonly #open: OpenLots;
  readonly #spots: Spot[] = [];
  readonly #used: number[] = [];
  /** By kind: its area, and in which search it was looked at last. */
  readonly #areas: number[] = [];
  readonly #seen: Int32Array;
  #search = 0;
  /** The least side of what is left: a smaller rectangle stays free. */
  #least = Infinity;
  readonly #kept: Pick<OpenLots, 'counts' | 'next'>;
  readonly #tried: Pick<OpenLots, 'counts' | 'next'>;

  constructor(lots: readonly Lot[], order: ArrayLike<number>, field: Field) {
    this.#lots = lots;
    this.#field = field;
    const counts = lots.map((lot) => lot.count);
    this.#open = new OpenLots(counts, order);
    this.#kept = this.#open.room();
    this.#tried = this.#open.room();
    this.#seen = new Int32Array(lots.reduce((most, lot) => Math.max(most, lot.kind), 0) + 1).fill(-1);
    for (const lot of lots) this.#areas[lot.kind] = lot.width * lot.height;
  }

  run(clearings: readonly Clearing[]): Packed {
    const left = new Set<number>();
    const open = this.#open;
    while (open.first >= 0 || this.#used.length < clearings.length) {
      const { leaves, from } = clearings[this.#used.length] ?? { leaves: [], from: 0 };
      this.#least = 0;
      for (const leaf of leaves) this.#fill(leaf.x, leaf.y, leaf.width, leaf.height);
      let y = from;
      while (open.first >= 0) {
        const high = this.#section(y);
        if (high === 0) break;
        y += high;
      }
      if (y === 0) {
        for (let i = open.first; i >= 0; i = open.next[i]!) left.add(this.#lots[i]!.kind);
        break;
      }
      this.#used.push(y);
    }
    return { spots: this.#spots, used: this.#used, left };
  }

  /**
   * Fills a section across the field from `y` on. It begins with one of the next pieces of the order, lying or standing: the one
   * that fills it best. @returns its height, 0 where none fits
   */
  #section(y: number): number {
    const lots = this.#lots;
    const open = this.#open;
    this.#least = Infinity;
    for (let i = open.first; i >= 0; i = open.next[i]!) this.#least = Math.min(this.#least, lots[i]!.width, lots[i]!.height);
    open.copyTo(this.#kept);
    const from = this.#spots.length;
    let best: { share: number; high: number; spots: Spot[] } | undefined;
    let candidates = 0;
    const { next } = this.#kept;
    for (let i = next[open.last]!, before = open.last; i >= 0 && candidates < CANDIDATES; before = i, i = next[i]!) {
      let any = false;
      for (let turn = 0; turn < (lots[i]!.mayTurn ? 2 : 1); turn++) {
        const made = this.#sectionWith(i, before, turn === 1, y, from);
        if (!made) continue;
        any = true;
        if (best && made.share <= best.share) continue;
        best = { ...made, spots: this.#spots.slice(from) };
        open.copyTo(this.#tried);
      }
      if (any) candidates++;
    }
    this.#spots.length = from;
    open.restore(best ? this.#tried : this.#kept);
    for (const spot of best?.spots ?? []) this.#spots.push(spot);
    return best?.high ?? 0;
  }

  /** A section that begins with this piece. @returns nothing where the piece does not fit */
  #sectionWith(i: number, before: number, turned: boolean, y: number, from: number): { share: number; high: number } | undefined {
    const lot = this.#lots[i]!;
    const { width, height } = this.#field;
    const w = turned ? lot.turnedWidth : lot.width;
    const h = turned ? lot.turnedHeight : lot.height;
    if (w > width + EPS || y + h > height + EPS) return undefined;
    this.#open.restore(this.#kept);
    this.#spots.length = from;
    this.#spots.push({ kind: lot.kind, bin: this.#used.length, x: 0, y, turned });
    this.#open.take(i, before);
    this.#fill(w, y, width - w, h);
    let area = 0;
    for (let k = from; k < this.#spots.length; k++) area += this.#areas[this.#spots[k]!.kind]!;
    return { share: area / (width * h), high: h };
  }

  /** Fills a free rectangle: its best piece in a corner, then what a straight cut beside that leaves. */
  #fill(x: number, y: number, room: number, high: number): void {
    if (room < this.#least - EPS || high < this.#least - EPS || this.#open.first < 0) return;
    const { best, bestBefore, turned } = this.#choose(room, high);
    if (best < 0) return;
    const lot = this.#lots[best]!;
    const w = turned ? lot.turnedWidth : lot.width;
    const h = turned ? lot.turnedHeight : lot.height;
    this.#spots.push({ kind: lot.kind, bin: this.#used.length, x, y, turned });
    this.#open.take(best, bestBefore);
    const right = room - w;
    const above = high - h;
    // The cut that leaves the larger free rectangle whole; it is filled first.
    if (right * high > above * room) {
      this.#fill(x + w, y, right, high);
      this.#fill(x, y + h, w, above);
    } else {
      this.#fill(x, y + h, room, above);
      this.#fill(x + w, y, right, h);
    }
  }

  /** The best of what is left for a free rectangle. */
  #choose(room: number, high: number): { best: number; bestBefore: number; turned: boolean } {
    const { next, last } = this.#open;
    let best = -1;
    let bestBefore = -1;
    let bestScore = -1;
    let turned = false;
    this.#search++;
    for (let before = last, i = next[last]!; i >= 0; before = i, i = next[i]!) {
      const lot = this.#lots[i]!;
      if (this.#seen[lot.kind] === this.#search) continue;
      this.#seen[lot.kind] = this.#search;
      for (let turn = 0; turn < (lot.mayTurn ? 2 : 1); turn++) {
        const w = turn ? lot.turnedWidth : lot.width;
        const h = turn ? lot.turnedHeight : lot.height;
        if (w > room + EPS || h > high + EPS) continue;
        const score = fitness(w, h, room, high);
        if (score > bestScore) {
          best = i;
          bestBefore = before;
          bestScore = score;
          turned = turn === 1;
        }
      }
      if (bestScore === 4) break;
    }
    return { best, bestBefore, turned };
  }
}

/** @param clearings by bin: what is free around pinned pieces */
export const fillGuillotine = (
  lots: readonly Lot[],
  order: ArrayLike<number>,
  field: Field,
  clearings: readonly Clearing[] = []
): Packed => new GuillotineFill(lots, order, field).run(clearings);
