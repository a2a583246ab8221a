import type { Box } from '../geometry/box';
import type { Point } from '../geometry/matrix';

/** How ink lies over a picture: coarse enough to be sent with it, fine enough to tell what a part of it takes. */

/** Cells along each side. */
export const CELLS = 24;

/** CELLS × CELLS figures, row by row from the top left: 0…255 of the fullest cell. */
export type Spread = readonly number[];

/**
 * @param takenAt what a pixel takes, row by row
 * @returns what all pixels take, and how that is spread
 */
export function spreadOf(width: number, height: number, takenAt: (pixel: number) => number): { sum: number; spread: Spread } {
  const cells = new Float64Array(CELLS * CELLS);
  const columns = Uint8Array.from({ length: width }, (_, x) => (x * CELLS) / width);
  for (let y = 0, pixel = 0; y < height; y++) {
    const row = Math.floor((y * CELLS) / height) * CELLS;
    for (let x = 0; x < width; x++, pixel++) cells[row + columns[x]!]! += takenAt(pixel);
  }
  const most = Math.max(...cells);
  return {
    sum: cells.reduce((sum, cell) => sum + cell, 0),
    spread: Array.from(cells, (cell) => (most > 0 ? Math.round((cell / most) * 255) : 0))
  };
}

/** Lines across a row of cells that are looked at: so many that a round shape is off by less than a hundredth. */
const LINES = 4;

/** How much of what a picture takes lies within rings (even-odd), 0…1. @param box where the picture lies, in the rings' unit */
export function shareWithin(spread: Spread, box: Box, rings: readonly (readonly Point[])[]): number {
  let [within, all] = [0, 0];
  for (let row = 0; row < CELLS; row++) {
    // What the row takes from its left edge up to each cell.
    const upTo = [0];
    for (const cell of spread.slice(row * CELLS, (row + 1) * CELLS)) upTo.push(upTo.at(-1)! + cell);
    const leftOf = (x: number): number => {
      const at = Math.max(0, Math.min(CELLS, ((x - box.x) / box.width) * CELLS));
      const cell = Math.min(CELLS - 1, Math.floor(at));
      return upTo[cell]! + (at - cell) * (upTo[cell + 1]! - upTo[cell]!);
    };
    for (let line = 0; line < LINES; line++) {
      const xs = crossings(rings, box.y + ((row + (line + 0.5) / LINES) / CELLS) * box.height);
      for (let i = 0; i + 1 < xs.length; i += 2) within += leftOf(xs[i + 1]!) - leftOf(xs[i]!);
      all += upTo[CELLS]!;
    }
  }
  return all > 0 ? within / all : 0;
}

/** Where a line across meets rings, from the left. */
function crossings(rings: readonly (readonly Point[])[], y: number): number[] {
  const xs: number[] = [];
  for (const ring of rings)
    for (let i = 0, j = ring.length - 1; i < ring.length; j = i++) {
      const [p, q] = [ring[i]!, ring[j]!];
      if (p.y > y !== q.y > y) xs.push(p.x + ((y - p.y) / (q.y - p.y)) * (q.x - p.x));
    }
  return xs.sort((a, b) => a - b);
}
