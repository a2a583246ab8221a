import type { Box } from '../geometry/box';
import { courseAt, type Seam } from './wall';
import type { Size } from './panels';

/** How much there is to see in a picture, place by place: a seam shows where much is, and is lost where nothing changes. */
export interface Detail {
  columns: number;
  rows: number;
  /** Row by row; 255 for lettering and the like. */
  cells: Uint8Array;
}

/** Steps of a channel from pixel to pixel, in the mean, that count in full. */
const FULL_STEP = 24;
/** Around a place as far as this, of the longer side, and how much edges there count. */
const CROWD_SHARE = 0.008;
const CROWDED = 2;
/** What changes by no more is not seen, as in a sky that grows darker. */
const UNSEEN_STEP = 3;
/** Pixels of a side of a cell. */
const CELL_PX = 2;

/**
 * The detail of a picture.
 *
 * @param pixels rows of three bytes a pixel, white where nothing prints
 */
export function detailOf(pixels: Uint8Array, width: number, height: number): Detail {
  const [columns, rows] = [Math.max(1, Math.floor(width / CELL_PX)), Math.max(1, Math.floor(height / CELL_PX))];
  const raw = new Float32Array(columns * rows);
  const step = (a: number, b: number) =>
    Math.max(
      Math.abs(pixels[a]! - pixels[b]!),
      Math.abs(pixels[a + 1]! - pixels[b + 1]!),
      Math.abs(pixels[a + 2]! - pixels[b + 2]!)
    );
  for (let y = 0; y < rows * CELL_PX && y < height; y++)
    for (let x = 0; x < columns * CELL_PX && x < width; x++) {
      const at = (y * width + x) * 3;
      const across = x + 1 < width ? step(at, at + 3) : 0;
      const down = y + 1 < height ? step(at, at + width * 3) : 0;
      raw[Math.floor(y / CELL_PX) * columns + Math.floor(x / CELL_PX)]! += Math.max(0, Math.hypot(across, down) - UNSEEN_STEP);
    }
  const full = FULL_STEP * CELL_PX ** 2;
  const edges = raw.map((sum) => Math.min(1, sum / full));
  // Within a letter or a face little changes, and yet a seam does not belong there: what is crowded around it counts too.
  const crowd = meansAround(edges, columns, rows, Math.max(2, Math.round(Math.max(columns, rows) * CROWD_SHARE)));
  const cells = new Uint8Array(columns * rows);
  // The neighbours count as well: a seam just beside an edge is seen as one through it.
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      let most = CROWDED * crowd[row * columns + column]!;
      for (let r = Math.max(0, row - 1); r <= Math.min(rows - 1, row + 1); r++)
        for (let c = Math.max(0, column - 1); c <= Math.min(columns - 1, column + 1); c++)
          most = Math.max(most, edges[r * columns + c]!);
      cells[row * columns + column] = Math.min(255, Math.round(most * 255));
    }
  return { columns, rows, cells };
}

/** Means over squares of so many cells to each side, by sums over rectangles (Crow 1984). */
function meansAround(values: Float32Array, columns: number, rows: number, reach: number): Float32Array {
  const wide = columns + 1;
  const sums = new Float64Array(wide * (rows + 1));
  for (let row = 0; row < rows; row++) {
    let line = 0;
    for (let column = 0; column < columns; column++) {
      line += values[row * columns + column]!;
      sums[(row + 1) * wide + column + 1] = sums[row * wide + column + 1]! + line;
    }
  }
  return values.map((_, i) => {
    const [row, column] = [Math.floor(i / columns), i % columns];
    const [top, bottom] = [Math.max(0, row - reach), Math.min(rows, row + reach + 1)];
    const [left, right] = [Math.max(0, column - reach), Math.min(columns, column + reach + 1)];
    const sum = sums[bottom * wide + right]! - sums[top * wide + right]! - sums[bottom * wide + left]! + sums[top * wide + left]!;
    return sum / ((bottom - top) * (right - left));
  });
}

/** The same with the columns as rows. */
export function transposed({ columns, rows, cells }: Detail): Detail {
  const turned = new Uint8Array(cells.length);
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) turned[column * rows + row] = cells[row * columns + column]!;
  return { columns: rows, rows: columns, cells: turned };
}

/** The same, where places of the wall count for so much at least, 0…1. */
export function withSpared(detail: Detail, size: Size, places: readonly Box[], least = 1): Detail {
  if (places.length === 0) return detail;
  const { columns, rows } = detail;
  const cells = Uint8Array.from(detail.cells);
  for (const { x, y, width, height } of places) {
    const left = Math.max(0, Math.floor((x / size.widthMm) * columns));
    const right = Math.min(columns, Math.ceil(((x + width) / size.widthMm) * columns));
    const [top, bottom] = [Math.floor((y / size.heightMm) * rows), Math.ceil(((y + height) / size.heightMm) * rows)];
    for (let row = Math.max(0, top); row < Math.min(rows, bottom); row++)
      for (let column = left; column < right; column++) {
        const at = row * columns + column;
        cells[at] = Math.max(cells[at]!, Math.round(least * 255));
      }
  }
  return { columns, rows, cells };
}

/** How busy it is under a seam, 0…1. */
export interface Under {
  mean: number;
  /** The most of any stretch of a tenth of it, and where the middle of that is, of its way from the top. */
  worst: number;
  worstAt: number;
}

export function detailUnder({ columns, rows, cells }: Detail, extentMm: number, seam: Seam): Under {
  const stretch = Math.max(1, Math.round(rows / 10));
  const found = Array.from({ length: rows }, (_, row) => {
    const mm = seam.at + courseAt(seam, rows > 1 ? row / (rows - 1) : 0);
    const column = Math.min(columns - 1, Math.max(0, Math.floor((mm / extentMm) * columns)));
    return cells[row * columns + column]! / 255;
  });
  let [sum, window, worst, worstAt] = [0, 0, 0, 0];
  found.forEach((one, row) => {
    sum += one;
    window += one - (row >= stretch ? found[row - stretch]! : 0);
    if (row < stretch - 1 || window / stretch <= worst) return;
    worst = window / stretch;
    worstAt = (row + 1 - stretch / 2) / rows;
  });
  return { mean: sum / rows, worst, worstAt };
}
