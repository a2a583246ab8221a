import { planesOf, plateLayout, pieceRect, type RipPlan } from './plan';
import { CELL } from './record';

/** Pixels a side of a cell of the coarse means. */
const COARSE = CELL * CELL;
/** Rows of cells that are looked at together. */
const ROWS = 256;

/** How far a stretch of pixels covers each cell that it touches, 0…1. */
function covers(from: number, length: number, first: number, last: number): number[] {
  return Array.from({ length: Math.max(0, last - first) }, (_, i) => {
    const cell = (first + i) * COARSE;
    return Math.max(0, Math.min(from + length, cell + COARSE) - Math.max(from, cell)) / COARSE;
  });
}

/**
 * How the ink of a run is shared by what lies on it, by its means in cells of 64 × 64 pixels. A cell that several pieces lie on,
 * by the boxes that they print in, is shared by how much of it each covers; what no piece lies on is left out.
 *
 * @param groupOf by piece of the plan, which group it is of
 * @param rows the means of so many rows of cells from one on: a byte a plate, cell by cell
 * @returns ml of each ink of the machine, by group
 */
export function inkOfPieces(
  plan: RipPlan,
  groupOf: readonly number[],
  groups: number,
  rows: (from: number, count: number) => Uint8Array
): number[][] {
  const { widthPx, heightPx } = plateLayout(plan);
  const [columns, all] = [Math.ceil(widthPx / COARSE), Math.ceil(heightPx / COARSE)];
  const inks = planesOf(plan).map(({ ink }) => ink);
  const full = inks.map((ink) => (plan.inks[ink]!.drops[2] * COARSE ** 2) / (255 * 1e9));
  const rects = plan.pieces.map((piece) => pieceRect(plan, piece));
  const sums = Array.from({ length: groups }, () => plan.inks.map(() => 0));
  for (let from = 0; from < all; from += ROWS) {
    const to = Math.min(all, from + ROWS);
    const lying = rects.flatMap(({ x, y, width, height }, piece) => {
      const [top, bottom] = [Math.max(from, Math.floor(y / COARSE)), Math.min(to, Math.ceil((y + height) / COARSE))];
      const [left, right] = [Math.max(0, Math.floor(x / COARSE)), Math.min(columns, Math.ceil((x + width) / COARSE))];
      if (top >= bottom || left >= right) return [];
      return [{ piece, top, left, across: covers(x, width, left, right), down: covers(y, height, top, bottom) }];
    });
    if (lying.length === 0) continue;
    const means = rows(from, to - from);
    const covered = new Float32Array((to - from) * columns);
    for (const { top, left, across, down } of lying)
      down.forEach((share, j) => across.forEach((part, i) => (covered[(top - from + j) * columns + left + i]! += share * part)));
    for (const { piece, top, left, across, down } of lying) {
      const ml = sums[groupOf[piece]!]!;
      for (let j = 0; j < down.length; j++)
        for (let i = 0; i < across.length; i++) {
          const cell = (top - from + j) * columns + left + i;
          const part = (down[j]! * across[i]!) / Math.max(1e-9, covered[cell]!);
          for (let plate = 0; plate < full.length; plate++)
            ml[inks[plate]!]! += part * means[cell * full.length + plate]! * full[plate]!;
        }
    }
  }
  return sums;
}
