/**
 * Rectangles on a strip or on sheets, interlocking: the lowest place of the skyline is filled with the piece that fits
 * it best, in an order that is then improved by exchanging two pieces at a time.
 *
 * Burke, Kendall, Whitwell 2004 (best fit); Leung, Zhang, Sim 2011 (fitness of a place); Yang, Han, Ye 2013 (exchanges).
 */

/** Equal pieces; `count` of them. Gaps are part of the size: pieces of a lot touch. */
export interface Lot {
  kind: number;
  width: number;
  height: number;
  /** Turned a quarter: other gaps may count than upright. */
  turnedWidth: number;
  turnedHeight: number;
  count: number;
  mayTurn: boolean;
}

export interface Spot {
  kind: number;
  /** Which strip or sheet, counted from 0. */
  bin: number;
  x: number;
  y: number;
  turned: boolean;
}

/** Where to place: `height` is infinite on a roll without an end. */
export interface Field {
  width: number;
  height: number;
}

export const EPS = 1e-6;

export interface Packed {
  spots: Spot[];
  /** Filled height of every bin. */
  used: number[];
  /** Kinds that fit nowhere. */
  left: Set<number>;
}

/** How well a piece fills the lowest place: full width first, then level with a neighbour. */
function fitness(w: number, h: number, room: number, left: number, right: number): number {
  const level = Math.abs(h - left) < EPS || Math.abs(h - right) < EPS;
  if (room - w < EPS) return level ? 8 : h > Math.max(left, right) ? 5 : 6;
  if (!level) return 0;
  return Math.abs(h - Math.max(left, right)) < EPS ? 2 : 1;
}

/** Places the lots in this order of preference. */
export function fillSkyline(lots: readonly Lot[], order: ArrayLike<number>, field: Field): Packed {
  const n = lots.length;
  const counts = Int32Array.from(lots, (lot) => lot.count);
  // A chain through the lots that are left, in order.
  const next = new Int32Array(n + 1);
  for (let i = 0; i < n; i++) next[i === 0 ? n : order[i - 1]!] = order[i]!;
  if (n > 0) next[order[n - 1]!] = -1;
  else next[n] = -1;
  const spots: Spot[] = [];
  const used: number[] = [];
  const left = new Set<number>();
  const seen = new Int32Array(Math.max(0, ...lots.map((lot) => lot.kind)) + 1).fill(-1);
  let scan = 0;
  const xs: number[] = [];
  const ys: number[] = [];
  const ws: number[] = [];

  while (next[n]! >= 0) {
    xs.length = ys.length = ws.length = 1;
    xs[0] = 0;
    ys[0] = 0;
    ws[0] = field.width;
    let filled = 0;
    for (;;) {
      let at = 0;
      for (let i = 1; i < ys.length; i++) if (ys[i]! < ys[at]! - EPS) at = i;
      const y = ys[at]!;
      const room = ws[at]!;
      const wallLeft = at > 0 ? ys[at - 1]! - y : Infinity;
      const wallRight = at < ys.length - 1 ? ys[at + 1]! - y : Infinity;
      const most = field.height - y + EPS;
      let best = -1;
      let bestBefore = -1;
      let bestScore = -1;
      let bestTurned = false;
      scan++;
      for (let before = n, i = next[n]!; i >= 0; before = i, i = next[i]!) {
        const lot = lots[i]!;
        if (seen[lot.kind] === scan) continue;
        seen[lot.kind] = scan;
        for (let turn = 0; turn < (lot.mayTurn ? 2 : 1); turn++) {
          const w = turn ? lot.turnedWidth : lot.width;
          const h = turn ? lot.turnedHeight : lot.height;
          if (w > room + EPS || h > most) continue;
          const score = fitness(w, h, room, wallLeft, wallRight);
          if (score > bestScore) {
            best = i;
            bestBefore = before;
            bestScore = score;
            bestTurned = turn === 1;
          }
        }
        if (bestScore === 8) break;
      }
      if (best >= 0) {
        const lot = lots[best]!;
        const w = bestTurned ? lot.turnedWidth : lot.width;
        const h = bestTurned ? lot.turnedHeight : lot.height;
        // Beside the wall that it is level with, or the higher one.
        const levelLeft = Math.abs(h - wallLeft) < EPS;
        const levelRight = Math.abs(h - wallRight) < EPS;
        const atLeft = levelLeft || (!levelRight && wallLeft >= wallRight);
        const x = atLeft ? xs[at]! : xs[at]! + room - w;
        spots.push({ kind: lot.kind, bin: used.length, x, y, turned: bestTurned });
        filled = Math.max(filled, y + h);
        if (--counts[best]! === 0) next[bestBefore] = next[best]!;
        if (room - w < EPS) ys[at] = y + h;
        else if (atLeft) {
          xs.splice(at, 0, x);
          ys.splice(at, 0, y + h);
          ws.splice(at, 0, w);
          xs[at + 1] = x + w;
          ws[at + 1] = room - w;
        } else {
          ws[at] = room - w;
          xs.splice(at + 1, 0, x);
          ys.splice(at + 1, 0, y + h);
          ws.splice(at + 1, 0, w);
        }
      } else if (ys.length === 1) break;
      else ys[at] = y + Math.min(wallLeft, wallRight);
      // Neighbours that are level now are one place.
      for (let i = Math.max(0, at - 1); i < ys.length - 1 && i <= at + 1;) {
        if (Math.abs(ys[i]! - ys[i + 1]!) < EPS) {
          ws[i] = ws[i]! + ws[i + 1]!;
          xs.splice(i + 1, 1);
          ys.splice(i + 1, 1);
          ws.splice(i + 1, 1);
        } else i++;
      }
      if (next[n]! < 0) break;
    }
    if (filled === 0) {
      // An empty bin takes none of what is left.
      for (let i = next[n]!; i >= 0; i = next[i]!) left.add(lots[i]!.kind);
      break;
    }
    used.push(filled);
  }
  return { spots, used, left };
}
