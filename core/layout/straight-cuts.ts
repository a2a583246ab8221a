import type { Box } from '../geometry/box';
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
      if (a - at > 1e-4) cuts++;
      // The cut behind this one frees the next too where no gap lies between.
      if (i < last || start(within) + size(within) - b > 1e-4) cuts++;
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

/** @param clearings by bin: what is free around pinned pieces */
export function fillGuillotine(
  lots: readonly Lot[],
  order: ArrayLike<number>,
  field: Field,
  clearings: readonly Clearing[] = []
): Packed {
  const n = lots.length;
  const counts = Int32Array.from(lots, (lot) => lot.count);
  const next = new Int32Array(n + 1);
  for (let i = 0; i < n; i++) next[i === 0 ? n : order[i - 1]!] = order[i]!;
  if (n > 0) next[order[n - 1]!] = -1;
  else next[n] = -1;
  const spots: Spot[] = [];
  const used: number[] = [];
  const left = new Set<number>();
  const seen = new Int32Array(Math.max(0, ...lots.map((lot) => lot.kind)) + 1).fill(-1);
  let scan = 0;
  let least = Infinity;
  const areas: number[] = [];
  for (const lot of lots) areas[lot.kind] = lot.width * lot.height;

  /** The best of what is left for a free rectangle; `high` is infinite where a section begins. */
  const choose = (room: number, high: number) => {
    let best = -1;
    let bestBefore = -1;
    let bestScore = -1;
    let turned = false;
    scan++;
    for (let before = n, i = next[n]!; i >= 0; before = i, i = next[i]!) {
      const lot = lots[i]!;
      if (seen[lot.kind] === scan) continue;
      seen[lot.kind] = scan;
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
  };
  const take = (i: number, before: number) => {
    if (--counts[i]! === 0) next[before] = next[i]!;
  };

  const fill = (x: number, y: number, room: number, high: number): void => {
    if (room < least - EPS || high < least - EPS || next[n]! < 0) return;
    const { best, bestBefore, turned } = choose(room, high);
    if (best < 0) return;
    const lot = lots[best]!;
    const w = turned ? lot.turnedWidth : lot.width;
    const h = turned ? lot.turnedHeight : lot.height;
    spots.push({ kind: lot.kind, bin: used.length, x, y, turned });
    take(best, bestBefore);
    const right = room - w;
    const above = high - h;
    // The cut that leaves the larger free rectangle whole; it is filled first.
    if (right * high > above * room) {
      fill(x + w, y, right, high);
      fill(x, y + h, w, above);
    } else {
      fill(x, y + h, room, above);
      fill(x + w, y, right, h);
    }
  };

  const kept = { counts: new Int32Array(n), next: new Int32Array(n + 1) };
  const tried = { counts: new Int32Array(n), next: new Int32Array(n + 1) };
  while (next[n]! >= 0 || used.length < clearings.length) {
    const { leaves, from: start } = clearings[used.length] ?? { leaves: [], from: 0 };
    let y = start;
    least = 0;
    for (const leaf of leaves) fill(leaf.x, leaf.y, leaf.width, leaf.height);
    while (next[n]! >= 0) {
      least = Infinity;
      for (let i = next[n]!; i >= 0; i = next[i]!) least = Math.min(least, lots[i]!.width, lots[i]!.height);
      // A section begins with one of the next pieces of the order, lying or standing: the one that fills it best.
      kept.counts.set(counts);
      kept.next.set(next);
      const from = spots.length;
      let best: { share: number; high: number; spots: Spot[] } | undefined;
      let candidates = 0;
      for (let i = kept.next[n]!, before = n; i >= 0 && candidates < CANDIDATES; before = i, i = kept.next[i]!) {
        const lot = lots[i]!;
        let any = false;
        for (let turn = 0; turn < (lot.mayTurn ? 2 : 1); turn++) {
          const w = turn ? lot.turnedWidth : lot.width;
          const h = turn ? lot.turnedHeight : lot.height;
          if (w > field.width + EPS || y + h > field.height + EPS) continue;
          any = true;
          counts.set(kept.counts);
          next.set(kept.next);
          spots.length = from;
          spots.push({ kind: lot.kind, bin: used.length, x: 0, y, turned: turn === 1 });
          take(i, before);
          fill(w, y, field.width - w, h);
          let area = 0;
          for (let k = from; k < spots.length; k++) area += areas[spots[k]!.kind]!;
          const share = area / (field.width * h);
          if (best && share <= best.share) continue;
          best = { share, high: h, spots: spots.slice(from) };
          tried.counts.set(counts);
          tried.next.set(next);
        }
        if (any) candidates++;
      }
      spots.length = from;
      if (!best) {
        counts.set(kept.counts);
        next.set(kept.next);
        break;
      }
      counts.set(tried.counts);
      next.set(tried.next);
      for (const spot of best.spots) spots.push(spot);
      y += best.high;
    }
    if (y === 0) {
      for (let i = next[n]!; i >= 0; i = next[i]!) left.add(lots[i]!.kind);
      break;
    }
    used.push(y);
  }
  return { spots, used, left };
}
