import type { Rect } from '../geometry/path';

/** Copies of one docket, as a run lays them out: the size that prints, bleed included. */
export interface CopyRequest {
  id: string;
  width: number;
  height: number;
  copies: number;
  /** Whether a quarter turn is allowed. */
  mayTurn: boolean;
}

export type Alignment = 'left' | 'centre' | 'right';

export interface RowRule {
  /** Across and along the roll, between pieces. */
  gapX: number;
  gapY: number;
  /** Left free on both edges, and before and after the run. */
  margin: number;
  lead: number;
  tail: number;
  align: Alignment;
}

export interface PlacedCopy {
  id: string;
  x: number;
  y: number;
  width: number;
  height: number;
  turned: boolean;
}

export interface Placement {
  copies: PlacedCopy[];
  /** Places that cost no film, ready to be claimed. */
  ghosts: PlacedCopy[];
  /** Of the roll, lead and tail included. */
  length: number;
  /** Dockets with no copy that fits, with the widest that would. */
  tooWide: { id: string; width: number; usable: number }[];
}

interface Grid {
  perRow: number;
  rows: number;
  width: number;
  height: number;
  turned: boolean;
  length: number;
}

/**
 * Rows of equal pieces across the roll, docket after docket in the order of the list, each turned a quarter where that
 * takes less of the roll. The row's free places become ghosts. A pure function: the same run gives the same placement.
 *
 * @param rollWidth mm of media across
 */
export function placeInRows(requests: readonly CopyRequest[], rollWidth: number, rule: RowRule): Placement {
  const usable = rollWidth - 2 * rule.margin;
  const copies: PlacedCopy[] = [];
  const ghosts: PlacedCopy[] = [];
  const tooWide: Placement['tooWide'] = [];
  let y = rule.lead;
  let any = false;

  for (const request of requests) {
    if (request.copies < 1) continue;
    const upright = grid(request, usable, rule, false);
    const turned = request.mayTurn ? grid(request, usable, rule, true) : undefined;
    const best = !upright || (turned && turned.length < upright.length - 1e-6) ? turned : upright;
    if (!best) {
      tooWide.push({ id: request.id, width: request.width, usable });
      continue;
    }
    if (any) y += rule.gapY;
    any = true;
    const columns = Math.min(best.perRow, request.copies);
    const blockWidth = columns * best.width + (columns - 1) * rule.gapX;
    const left = rule.margin + { left: 0, centre: (usable - blockWidth) / 2, right: usable - blockWidth }[rule.align];
    for (let row = 0; row < best.rows; row++) {
      for (let column = 0; column < best.perRow; column++) {
        const index = row * best.perRow + column;
        // A short first row: what is free beside it starts from its own end, so that nothing moves when it is claimed.
        const isGhost = index >= request.copies;
        const x = left + column * (best.width + rule.gapX);
        if (isGhost && x + best.width > rollWidth - rule.margin + 1e-6) continue;
        (isGhost ? ghosts : copies).push({
          id: request.id,
          x,
          y: y + row * (best.height + rule.gapY),
          width: best.width,
          height: best.height,
          turned: best.turned
        });
      }
    }
    y += best.length;
  }
  return { copies, ghosts, length: any ? y + rule.tail : 0, tooWide };
}

function grid(request: CopyRequest, usable: number, rule: RowRule, turned: boolean): Grid | undefined {
  const width = turned ? request.height : request.width;
  const height = turned ? request.width : request.height;
  // A hair of tolerance: ten pieces of a tenth of the width are meant to fit.
  const perRow = Math.floor((usable + rule.gapX + 1e-6) / (width + rule.gapX));
  if (perRow < 1) return undefined;
  const rows = Math.ceil(request.copies / perRow);
  return { perRow, rows, width, height, turned, length: rows * height + (rows - 1) * rule.gapY };
}

export interface RollUse {
  /** m² of media that the run takes, and of it what is not covered by copies. */
  areaM2: number;
  wasteM2: number;
  wasteShare: number;
}

export function rollUse(placement: Placement, rollWidth: number): RollUse {
  const area = rollWidth * placement.length;
  const used = placement.copies.reduce((sum, copy) => sum + copy.width * copy.height, 0);
  const waste = Math.max(0, area - used);
  return { areaM2: area / 1e6, wasteM2: waste / 1e6, wasteShare: area > 0 ? waste / area : 0 };
}

export function overlaps(p: Rect, q: Rect): boolean {
  const e = 1e-6;
  return p.x < q.x + q.width - e && q.x < p.x + p.width - e && p.y < q.y + q.height - e && q.y < p.y + p.height - e;
}
