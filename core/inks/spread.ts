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

/** Lines across a box that are looked at: so fine that a round shape is off by less than a hundredth. */
const LINES = 4 * CELLS;

/** How much of what a picture takes lies within rings (even-odd), 0…1. @param box where the picture lies, in the rings' unit */
export function shareWithin(spread: Spread, box: Box, rings: readonly (readonly Point[])[]): number {
  let [within, all] = [0, 0];
  for (let line = 0; line < LINES; line++) {
    const y = box.y + ((line + 0.5) / LINES) * box.height;
    const row = spread.slice(Math.floor((line * CELLS) / LINES) * CELLS).slice(0, CELLS);
    const crossed = crossings(rings, y).map((x) => ((x - box.x) / box.width) * CELLS);
    row.forEach((cell, column) => {
      all += cell;
      if (cell > 0) within += cell * covered(crossed, column, column + 1);
    });
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

/** How much of a stretch lies between every first and second of such places. */
function covered(crossed: readonly number[], from: number, to: number): number {
  let sum = 0;
  for (let i = 0; i + 1 < crossed.length; i += 2) sum += Math.max(0, Math.min(to, crossed[i + 1]!) - Math.max(from, crossed[i]!));
  return sum;
}
