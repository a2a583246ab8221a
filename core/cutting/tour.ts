import Flatbush from 'flatbush';
import type { Point } from '../geometry/matrix';
import { seededRandom } from '../geometry/random';

/**
 * Short round tours through many places: chains of turned stretches among near neighbours (Lin and Kernighan 1973), then small
 * kicks that are taken back where they do not pay (Martin, Otto and Felten 1991). The same places give the same tour; the
 * work is bounded by steps, not by a clock.
 */

/** Links are made to so many nearest places alone. */
const NEAR = 5;
/** A chain of exchanges is so long at most. */
const DEEPEST = 3;
/** First links that are tried at a place, the best first. */
const FIRST = 3;
/** Kicks a place, and at most: what two seconds allow. */
const KICKS_A_PLACE = 8;
const MOST_KICKS = 16_000;
/** A kick exchanges two neighbouring stretches up to so long. */
const KICKED = 8;
/** What turns round more than this costs more than it brings. */
const LONGEST_TURN = 4000;
/** Stretches up to so long are moved whole. */
const LONGEST_MOVED = 3;
const GAIN_MM = 1e-7;

/** @returns indices into places, in the order of a round tour that starts at the first of them */
export function shortTour(places: readonly Point[]): number[] {
  const n = places.length;
  // So few have one round tour.
  if (n < 4) return places.map((_, i) => i);
  const tour = new Tour(places);
  tour.improve(tour.order.slice());
  if (n > 8) tour.kick(Math.min(MOST_KICKS, KICKS_A_PLACE * n));
  const start = tour.at[0]!;
  return Array.from({ length: n }, (_, i) => tour.order[(start + i) % n]!);
}

class Tour {
  readonly order: Int32Array;
  /** Where in the order each place is. */
  readonly at: Int32Array;
  readonly #n: number;
  readonly #x: Float64Array;
  readonly #y: Float64Array;
  /** Of each place its nearest, the nearest first, and how far they are. */
  readonly #near: Int32Array;
  readonly #nearGap: Float64Array;
  readonly #nearest: number;
  /** Places whose surroundings are to be looked at, each once. */
  readonly #queue: number[] = [];
  readonly #isQueued: Uint8Array;
  /** What was exchanged, in its order: four places each. */
  readonly #exchanged: number[] = [];

  constructor(places: readonly Point[]) {
    const n = places.length;
    this.#n = n;
    this.#x = Float64Array.from(places, ({ x }) => x);
    this.#y = Float64Array.from(places, ({ y }) => y);
    this.#isQueued = new Uint8Array(n);
    this.order = greedyTour(this.#x, this.#y);
    this.at = new Int32Array(n);
    this.order.forEach((place, i) => (this.at[place] = i));
    const tree = new Flatbush(n);
    for (let i = 0; i < n; i++) tree.add(this.#x[i]!, this.#y[i]!);
    tree.finish();
    this.#nearest = Math.min(NEAR, n - 1);
    this.#near = new Int32Array(n * this.#nearest);
    for (let i = 0; i < n; i++) {
      const others = tree.neighbors(this.#x[i]!, this.#y[i]!, this.#nearest + 1).filter((j) => j !== i);
      this.#near.set(others.slice(0, this.#nearest), i * this.#nearest);
    }
    this.#nearGap = Float64Array.from(this.#near, (near, k) => this.#gap(Math.floor(k / this.#nearest), near));
  }

  #gap(a: number, b: number): number {
    const dx = this.#x[a]! - this.#x[b]!;
    const dy = this.#y[a]! - this.#y[b]!;
    return Math.sqrt(dx * dx + dy * dy);
  }

  #next(a: number, isAhead: boolean): number {
    const i = this.at[a]! + (isAhead ? 1 : -1);
    return this.order[i === this.#n ? 0 : i < 0 ? this.#n - 1 : i]!;
  }

  /** How many stand from one place on to another. */
  #span(from: number, to: number): number {
    const span = this.at[to]! - this.at[from]! + 1;
    return span <= 0 ? span + this.#n : span;
  }

  /** Turns round what stands from one place on to another, or all the rest where that is shorter: the same round tour. */
  #turn(from: number, to: number): void {
    const { order, at } = this;
    const n = this.#n;
    let span = this.#span(from, to);
    let i = at[from]!;
    let j = at[to]!;
    if (span * 2 > n) {
      const behind = i === 0 ? n - 1 : i - 1;
      i = j + 1 === n ? 0 : j + 1;
      j = behind;
      span = n - span;
    }
    for (let k = span >> 1; k > 0; k--) {
      const a = order[i]!;
      const b = order[j]!;
      order[i] = b;
      at[b] = i;
      order[j] = a;
      at[a] = j;
      i = i + 1 === n ? 0 : i + 1;
      j = j === 0 ? n - 1 : j - 1;
    }
  }

  /**
   * Where the tour goes a, b … c, d, one way or the other: then it goes a, c … b, d. It is noted, to be taken back.
   */
  #exchange(a: number, b: number, c: number, d: number): void {
    if (this.#next(a, true) === b) this.#turn(b, c);
    else this.#turn(c, b);
    this.#exchanged.push(a, b, c, d);
  }

  /** Takes back what was exchanged since there were so many notes. */
  #back(notes: number): void {
    while (this.#exchanged.length > notes) {
      // The fourth place is told by the other three.
      this.#exchanged.pop();
      const c = this.#exchanged.pop()!;
      const b = this.#exchanged.pop()!;
      const a = this.#exchanged.pop()!;
      if (this.#next(a, true) === c) this.#turn(c, b);
      else this.#turn(b, c);
    }
  }

  #look(place: number): void {
    if (this.#isQueued[place]) return;
    this.#isQueued[place] = 1;
    this.#queue.push(place);
  }

  /** Improves around places until nothing around them can be. @returns what was gained, mm */
  improve(places: Iterable<number>): number {
    for (const place of places) this.#look(place);
    let gained = 0;
    for (let next = this.#queue.pop(); next !== undefined; next = this.#queue.pop()) {
      this.#isQueued[next] = 0;
      for (let gain = this.#step(next); gain > 0; gain = this.#step(next)) gained += gain;
    }
    return gained;
  }

  /** One improvement at a place. @returns its gain, 0 where there is none */
  #step(a: number): number {
    let gain = 0;
    for (let first = 0; first < FIRST && gain <= 0; first++) gain = this.#chain(a, true, first) || this.#chain(a, false, first);
    return gain || this.#move(a, true) || this.#move(a, false);
  }

  /** Takes a short stretch that begins at `a` out and puts it beside what is near to `a`, either way round. @returns its gain, mm */
  #move(a: number, isAhead: boolean): number {
    const before = this.#next(a, !isAhead);
    let end = a;
    for (let long = 1; long <= LONGEST_MOVED; long++) {
      const after = this.#next(end, isAhead);
      if (after === before) return 0;
      const freed = this.#gap(before, a) + this.#gap(end, after) - this.#gap(before, after);
      for (let k = a * this.#nearest; k < (a + 1) * this.#nearest; k++) {
        const c = this.#near[k]!;
        const linked = this.#nearGap[k]!;
        if (freed - linked <= GAIN_MM) break;
        // Among those that are moved, or next to them where nothing is changed by it.
        const place = isAhead ? this.#span(a, c) : this.#span(c, a);
        if (place <= long) continue;
        for (let side = 0; side < 2; side++) {
          const isOn = side === 0;
          const d = this.#next(c, isOn === isAhead);
          if (d === a || d === end) continue;
          const gain = freed + this.#gap(c, d) - linked - this.#gap(end, d);
          if (gain <= GAIN_MM) continue;
          const away = Math.min(place, this.#n - place);
          if (away > LONGEST_TURN) continue;
          const notes = this.#exchanged.length;
          // On the shorter way round; seen from behind the stretch begins with its end.
          if (place === away) this.#relink(before, a, end, after, isOn ? c : d, isOn ? d : c, isOn);
          else this.#relink(after, end, a, before, isOn ? d : c, isOn ? c : d, isOn);
          for (let i = notes; i < this.#exchanged.length; i++) this.#look(this.#exchanged[i]!);
          return gain;
        }
      }
      end = after;
    }
    return 0;
  }

  /**
   * Where the tour goes p, first … last, q … x, y, one way or the other: then p, q … x, the stretch, y.
   *
   * @param isFirst whether the first of the stretch comes beside `x`, or the last
   */
  #relink(p: number, first: number, last: number, q: number, x: number, y: number, isFirst: boolean): void {
    this.#exchange(p, first, x, y);
    if (x !== q) this.#exchange(p, x, q, last);
    if (isFirst) this.#exchange(x, last, first, y);
  }

  /**
   * Cuts the link from `a` to its neighbour `b`, links `b` with a near `d` instead, cuts `d` from `c` before it, and turns what
   * lies between: then `a` has the neighbour `c`, and the same is done again, as long as the links that are gained are
   * longer. Kept as far as it paid best.
   */
  #chain(a: number, isAhead: boolean, first: number): number {
    const notes = this.#exchanged.length;
    let total = 0;
    let best = 0;
    let kept = notes;
    let b = this.#next(a, isAhead);
    // No arrays and no closures here: this is most of the work.
    for (let depth = 0; depth < DEEPEST; depth++) {
      const ahead = this.#next(a, true) === b;
      const open = total + this.#gap(a, b);
      let c = -1;
      let d = -1;
      let most = -Infinity;
      const from = depth === 0 ? first : 0;
      const to = depth === 0 ? Math.min(first + 1, this.#nearest) : this.#nearest;
      for (let k = b * this.#nearest + from; k < b * this.#nearest + to; k++) {
        const linked = this.#nearGap[k]!;
        if (open - linked <= GAIN_MM) break;
        const near = this.#near[k]!;
        const before = this.#next(near, !ahead);
        if (near === a || before === b) continue;
        const span = ahead ? this.#span(b, before) : this.#span(before, b);
        if (Math.min(span, this.#n - span) > LONGEST_TURN) continue;
        const worth = this.#gap(before, near) - linked;
        if (worth <= most) continue;
        c = before;
        d = near;
        most = worth;
      }
      if (d < 0) break;
      this.#exchange(a, b, c, d);
      total = open + most - this.#gap(a, c);
      b = c;
      if (total <= best + GAIN_MM) continue;
      best = total;
      kept = this.#exchanged.length;
    }
    this.#back(kept);
    for (let i = notes; i < kept; i++) this.#look(this.#exchanged[i]!);
    return best;
  }

  /** Exchanges two neighbouring stretches somewhere, improves around them, and takes all back where it became no shorter. */
  kick(times: number): void {
    const random = seededRandom(1);
    const n = this.#n;
    const longest = Math.max(1, Math.min(KICKED, Math.floor((n - 2) / 2)));
    for (let round = 0; round < times; round++) {
      this.#exchanged.length = 0;
      const p = Math.floor(random() * n);
      const one = 1 + Math.floor(random() * longest);
      const two = 1 + Math.floor(random() * longest);
      const place = (i: number) => this.order[(p + i) % n]!;
      const [before, first, last, next, end, after] = [
        place(0),
        place(1),
        place(one),
        place(one + 1),
        place(one + two),
        place(one + two + 1)
      ];
      const cost =
        this.#gap(before, next) + this.#gap(end, first) + this.#gap(last, after) -
        this.#gap(before, first) - this.#gap(last, next) - this.#gap(end, after); // prettier-ignore
      this.#exchange(before, first, end, after);
      this.#exchange(before, end, next, last);
      this.#exchange(end, last, first, after);
      if (this.improve([before, first, last, next, end, after]) < cost) this.#back(0);
    }
  }
}

/** A tour of the shortest links, taken one by one where they close no ring and a place has no two yet (Bentley 1992). */
function greedyTour(xs: Float64Array, ys: Float64Array): Int32Array {
  const n = xs.length;
  const links = new Int32Array(2 * n).fill(-1);
  /** Of a place at the end of a chain the other end. */
  const ends = Int32Array.from({ length: n }, (_, i) => i);
  let open = [...ends];
  for (let chains = n; chains > 1;) {
    const candidates = nearPairs(open, xs, ys);
    for (const [i, j] of candidates) {
      if (links[2 * i + 1]! >= 0 || links[2 * j + 1]! >= 0 || ends[i] === j) continue;
      links[links[2 * i]! < 0 ? 2 * i : 2 * i + 1] = j;
      links[links[2 * j]! < 0 ? 2 * j : 2 * j + 1] = i;
      const [far, other] = [ends[i]!, ends[j]!];
      ends[far] = other;
      ends[other] = far;
      chains--;
    }
    open = open.filter((i) => links[2 * i + 1]! < 0);
  }
  const order = new Int32Array(n);
  let [at, from] = [open[0] ?? 0, -1];
  for (let i = 0; i < n; i++) {
    order[i] = at;
    const next = links[2 * at]! !== from ? links[2 * at]! : links[2 * at + 1]!;
    [at, from] = [next, at];
  }
  return order;
}

/** Pairs of places near to each other, the nearest first; of few places all. */
function nearPairs(open: readonly number[], xs: Float64Array, ys: Float64Array): [number, number][] {
  const tree = new Flatbush(open.length);
  for (const i of open) tree.add(xs[i]!, ys[i]!);
  tree.finish();
  const pairs = open.flatMap((i, k) =>
    tree.neighbors(xs[i]!, ys[i]!, NEAR + 1).flatMap((other): [number, number, number][] => {
      const j = open[other]!;
      return other === k ? [] : [[i, j, Math.hypot(xs[i]! - xs[j]!, ys[i]! - ys[j]!)]];
    })
  );
  return pairs.sort((a, b) => a[2] - b[2]).map(([i, j]) => [i, j]);
}
