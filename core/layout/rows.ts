import type { Box } from '../geometry/box';
import { EPS, type Field, type Lot, type Spot } from './skyline';

export interface Rows {
  spots: Spot[];
  /** Places beside the last copies of each docket that cost nothing. */
  free: Spot[];
  used: number[];
  left: Set<number>;
  /** Which spots lie in one block and are moved together to the middle or to an edge; `height`, `piece` are of one piece. */
  blocks: { spots: Spot[]; width: number; height: number; piece: number }[];
}

export interface RowChoices {
  /** Each docket in a strip or sheet of its own. */
  apart: boolean;
  /** One copy a row. */
  single: boolean;
  /** The last one is paid for whole: sheets. */
  whole: boolean;
}

/**
 * Rows of equal pieces, docket after docket in the order of the list, each turned a quarter where that takes less.
 *
 * @param taken by bin: rectangles that are not to be touched, gaps included
 */
export function fillRows(
  items: readonly Lot[],
  field: Field,
  choices: RowChoices,
  taken: readonly (readonly Box[])[] = []
): Rows {
  const rows: Rows = { spots: [], free: [], used: [], left: new Set(), blocks: [] };
  let bin = 0;
  let y = 0;
  const begin = () => {
    rows.used[bin] = Math.max(0, ...(taken[bin] ?? []).map((r) => r.y + r.height));
  };
  begin();
  for (const item of items) {
    if (item.count < 1) continue;
    const turned = turnedIsShorter(item, field, choices.single);
    if (turned === undefined) {
      rows.left.add(item.kind);
      continue;
    }
    if (choices.apart && (y > 0 || (rows.used[bin] ?? 0) > 0)) {
      bin++;
      y = 0;
      begin();
    }
    const width = turned ? item.turnedWidth : item.width;
    const height = turned ? item.turnedHeight : item.height;
    let block: Rows['blocks'][number] = { spots: [], width: 0, height, piece: width };
    rows.blocks.push(block);
    for (let placed = 0; placed < item.count;) {
      if (y + height > field.height + EPS) {
        bin++;
        y = 0;
        begin();
        block = { spots: [], width: 0, height, piece: width };
        rows.blocks.push(block);
      }
      const spots = rowOf(width, height, y, field.width, choices.single, taken[bin] ?? []).map((x): Spot => ({
        kind: item.kind,
        bin,
        x,
        y,
        turned
      }));
      const take = spots.slice(0, item.count - placed);
      rows.spots.push(...take);
      rows.free.push(...spots.slice(take.length));
      block.spots.push(...spots);
      block.width = Math.max(block.width, ...take.map((spot) => spot.x + width));
      placed += take.length;
      if (take.length > 0) rows.used[bin] = Math.max(rows.used[bin] ?? 0, y + height);
      y += height;
    }
  }
  fillTheRest(rows, field, choices, taken, bin, y);
  while (rows.used.length < taken.length) {
    bin = rows.used.length;
    begin();
  }
  if (rows.used.at(-1) === 0) rows.used.pop();
  return rows;
}

/** What is left of the last sheet is free for more rows of the last docket; a roll is cut off there. */
function fillTheRest(
  rows: Rows,
  field: Field,
  choices: RowChoices,
  taken: readonly (readonly Box[])[],
  bin: number,
  from: number
): void {
  const last = rows.spots.at(-1);
  const block = rows.blocks.at(-1);
  if (!last || !block || !choices.whole || last.bin !== bin) return;
  const { width, height } = block;
  for (let y = from; y + height <= field.height + EPS; y += height) {
    const xs = rowOf(block.piece, height, y, field.width, choices.single, taken[bin] ?? []);
    const spots = xs.filter((x) => x + block.piece <= width + EPS).map((x): Spot => ({ ...last, x, y }));
    rows.free.push(...spots);
    block.spots.push(...spots);
  }
}

/** Whether a docket takes less turned a quarter; nothing where it fits neither way. */
function turnedIsShorter(item: Lot, field: Field, single: boolean): boolean | undefined {
  const length = (width: number, height: number): number => {
    const perRow = Math.floor((field.width + EPS) / width);
    if (perRow < 1 || height > field.height + EPS) return Infinity;
    return Math.ceil(item.count / (single ? 1 : perRow)) * height;
  };
  const upright = length(item.width, item.height);
  const lying = item.mayTurn ? length(item.turnedWidth, item.turnedHeight) : Infinity;
  if (upright === Infinity && lying === Infinity) return undefined;
  return lying < upright - EPS;
}

/** Left edges of the places of one row that are free. */
function rowOf(width: number, height: number, y: number, room: number, single: boolean, taken: readonly Box[]): number[] {
  const xs: number[] = [];
  const near = taken.filter((r) => r.y < y + height - EPS && r.y + r.height > y + EPS);
  let x = 0;
  // A hair of tolerance: ten pieces of a tenth of the width are meant to fit.
  while (x + width <= room + EPS && !(single && xs.length > 0)) {
    const at = x;
    const obstacle = near.find((r) => r.x < at + width - EPS && r.x + r.width > at + EPS);
    if (obstacle) x = obstacle.x + obstacle.width;
    else {
      xs.push(x);
      x += width;
    }
  }
  return xs;
}
