import type { Box } from '../geometry/box';
import { EPS, type Field, type Lot, type Packed, type Spot } from './skyline';

/** What is free of a strip or sheet, as maximal rectangles that may lie on each other (Jylänki 2010). */
export class FreeSpace {
  #rects: Box[];

  /** @param height may be infinite */
  constructor(width: number, height: number) {
    this.#rects = [{ x: 0, y: 0, width, height }];
  }

  occupy(taken: Box): void {
    const right = taken.x + taken.width;
    const bottom = taken.y + taken.height;
    const kept: Box[] = [];
    const parts: Box[] = [];
    for (const r of this.#rects) {
      if (taken.x >= r.x + r.width - EPS || right <= r.x + EPS || taken.y >= r.y + r.height - EPS || bottom <= r.y + EPS) {
        kept.push(r);
        continue;
      }
      if (taken.x > r.x + EPS) parts.push({ ...r, width: taken.x - r.x });
      if (right < r.x + r.width - EPS) parts.push({ ...r, x: right, width: r.x + r.width - right });
      if (taken.y > r.y + EPS) parts.push({ ...r, height: taken.y - r.y });
      if (bottom < r.y + r.height - EPS) parts.push({ ...r, y: bottom, height: r.y + r.height - bottom });
    }
    // Only what was split can lie within another.
    for (const [i, part] of parts.entries()) {
      const within = (other: Box) =>
        other.x <= part.x + EPS &&
        other.y <= part.y + EPS &&
        other.x + other.width >= part.x + part.width - EPS &&
        other.y + other.height >= part.y + part.height - EPS;
      if (kept.some(within)) continue;
      if (parts.some((other, j) => j !== i && within(other) && (j < i || !sameRect(other, part)))) continue;
      kept.push(part);
    }
    this.#rects = kept;
  }

  /** The place nearest to the start, then nearest to the left edge. */
  find(width: number, height: number): { x: number; y: number } | undefined {
    let best: Box | undefined;
    for (const r of this.#rects) {
      if (width > r.width + EPS || height > r.height + EPS) continue;
      if (!best || r.y < best.y - EPS || (r.y < best.y + EPS && r.x < best.x)) best = r;
    }
    return best && { x: best.x, y: best.y };
  }
}

const sameRect = (p: Box, q: Box) => p.x === q.x && p.y === q.y && p.width === q.width && p.height === q.height;

/**
 * Lots in this order, each piece at the free place nearest to the start, around what lies there already.
 *
 * @param taken by bin: rectangles that are not to be touched, gaps included
 */
export function fillAround(
  lots: readonly Lot[],
  order: ArrayLike<number>,
  field: Field,
  taken: readonly (readonly Box[])[]
): Packed {
  const counts = lots.map((lot) => lot.count);
  const spots: Spot[] = [];
  const used: number[] = [];
  let open = Array.from(order);
  for (let bin = 0; bin < taken.length || open.length > 0; bin++) {
    const pinned = taken[bin] ?? [];
    const space = new FreeSpace(field.width, field.height);
    let filled = 0;
    for (const rect of pinned) {
      space.occupy(rect);
      filled = Math.max(filled, rect.y + rect.height);
    }
    for (const i of open) {
      const lot = lots[i]!;
      while (counts[i]! > 0) {
        const upright = space.find(lot.width, lot.height);
        const lying = lot.mayTurn ? space.find(lot.turnedWidth, lot.turnedHeight) : undefined;
        // What reaches less far.
        const turned = !!lying && (!upright || lying.y + lot.turnedHeight < upright.y + lot.height - EPS);
        const at = turned ? lying : upright;
        if (!at) break;
        const width = turned ? lot.turnedWidth : lot.width;
        const height = turned ? lot.turnedHeight : lot.height;
        spots.push({ kind: lot.kind, bin, x: at.x, y: at.y, turned });
        space.occupy({ ...at, width, height });
        filled = Math.max(filled, at.y + height);
        counts[i]!--;
      }
    }
    const rest = open.filter((i) => counts[i]! > 0);
    if (filled > 0) used.push(filled);
    if (filled === 0 && bin >= taken.length) return { spots, used, left: new Set(rest.map((i) => lots[i]!.kind)) };
    open = rest;
  }
  return { spots, used, left: new Set() };
}
