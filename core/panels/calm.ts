import type { Detail } from './detail';
import type { Seam } from './wall';

/** Seams where the artwork is calm: the shortest way over its detail (dynamic programming, Bellman 1957). */

export interface CalmChoices {
  /** How far a seam may go to either side of where it is, mm. */
  rangeMm: number;
  /** Whether it may bend gently; else it is straight. */
  curved: boolean;
  /** The most that is seen of each strip, mm, the first to the last. */
  rooms: readonly number[];
  /** Strips are no narrower, mm. */
  leastMm: number;
  /** Where seams must not be, and how far from it, mm. */
  corners: readonly number[];
  cornerMm: number;
}

/** A curve bends within so much of its middle, mm, and no more than a cell in so many. */
const MOST_BAND_MM = 200;
const CELLS_A_STEP = 4;
/** What a step aside costs, of a cell that counts in full: a straight way is taken where nothing is gained. */
const STEP_COST = 0.02;
const weight = Float32Array.from({ length: 256 }, (_, v) => v / 255);
/** Courses are told at so many places at most. */
const MOST_NODES = 120;

interface Grid extends Detail {
  extentMm: number;
  cellMm: number;
}

interface Found {
  seams: Seam[];
  cost: number;
}

/** The cost of the way down a column, bending by so many cells; and that way, cell by cell of its steps. */
function wayDown({ columns, rows, cells }: Detail, middle: number, band: number): { cost: number; way: Int32Array } {
  const steps = Math.max(1, Math.ceil(rows / CELLS_A_STEP));
  const wide = 2 * band + 1;
  const from = new Int8Array(steps * wide);
  let costs = new Float64Array(wide);
  for (let step = 0; step < steps; step++) {
    const next = new Float64Array(wide);
    const [first, last] = [step * CELLS_A_STEP, Math.min(rows, (step + 1) * CELLS_A_STEP)];
    for (let i = 0; i < wide; i++) {
      const column = middle - band + i;
      let own = Infinity;
      if (column >= 0 && column < columns) {
        own = 0;
        for (let row = first; row < last; row++) own += weight[cells[row * columns + column]!]!;
      }
      let [least, by] = [costs[i]!, 0];
      for (const aside of [-1, 1]) {
        const before = (costs[i + aside] ?? Infinity) + STEP_COST;
        if (step > 0 && before < least) [least, by] = [before, aside];
      }
      from[step * wide + i] = by;
      next[i] = least + own;
    }
    costs = next;
  }
  let best = band;
  for (let i = 0; i < wide; i++) if (costs[i]! < costs[best]! - 1e-9) best = i;
  const way = new Int32Array(steps);
  for (let step = steps - 1, i = best; step >= 0; step--) {
    way[step] = middle - band + i;
    i += from[step * wide + i]!;
  }
  return { cost: costs[best]! / rows, way };
}

/** A way as a seam: smoothed, so that a knife follows it, and told from its mean place. */
function seamOf(way: Int32Array, band: number, { cellMm }: Grid): Seam {
  if (band === 0) return { at: Math.round((way[0]! + 0.5) * cellMm), course: [] };
  const places = Array.from(way, (column) => (column + 0.5) * cellMm);
  const evened = (list: readonly number[]) => list.map((mm, i) => ((list[i - 1] ?? mm) + 2 * mm + (list[i + 1] ?? mm)) / 4);
  const smooth = evened(evened(places));
  const nodes = Math.min(MOST_NODES, smooth.length);
  const even = Array.from({ length: nodes }, (_, i) => smooth[Math.round((i * (smooth.length - 1)) / Math.max(1, nodes - 1))]!);
  const at = Math.round(even.reduce((sum, mm) => sum + mm, 0) / nodes);
  const course = even.map((mm) => Math.round((mm - at) * 100) / 100);
  return course.every((mm) => Math.abs(mm) < cellMm / 2) ? { at, course: [] } : { at, course };
}

/**
 * Seams from top to bottom moved to where the artwork is calm, each within its range; together, so that every strip stays within its
 * room. Nothing where there is no such way.
 */
function within(grid: Grid, seams: readonly Seam[], choices: CalmChoices, band: number): Found | undefined {
  const { columns, cellMm, extentMm } = grid;
  const bandMm = band * cellMm;
  const isFree = (column: number) => {
    const mm = (column + 0.5) * cellMm;
    return (
      mm - bandMm > choices.leastMm / 2 &&
      mm + bandMm < extentMm - choices.leastMm / 2 &&
      choices.corners.every((corner) => Math.abs(corner - mm) > choices.cornerMm + bandMm)
    );
  };
  const reach = Math.max(1, Math.floor(choices.rangeMm / cellMm));
  interface Way {
    column: number;
    cost: number;
    way: Int32Array;
    total: number;
    before: Way | undefined;
  }
  let ways: Way[] = [];
  for (const [i, seam] of seams.entries()) {
    const middle = Math.floor(seam.at / cellMm);
    const next: Way[] = [];
    for (let column = Math.max(0, middle - reach); column <= Math.min(columns - 1, middle + reach); column++) {
      if (!isFree(column)) continue;
      const mm = (column + 0.5) * cellMm;
      // What is seen of the strip before it, at its widest and at its narrowest.
      const fits = (before: number) => {
        const wide = mm - before;
        return wide + (i === 0 ? bandMm : 2 * bandMm) <= choices.rooms[i]! && wide - 2 * bandMm >= choices.leastMm;
      };
      let best: Way | undefined;
      if (i === 0) {
        if (!fits(0)) continue;
      } else {
        for (const one of ways) if (one.total < (best?.total ?? Infinity) && fits((one.column + 0.5) * cellMm)) best = one;
        if (!best) continue;
      }
      const { cost, way } = wayDown(grid, column, band);
      // Of equal places the nearest to where it was.
      const off = Math.abs(column - middle) / reach;
      next.push({ column, cost, way, total: (best?.total ?? 0) + cost + off * 1e-4, before: best });
    }
    ways = next;
  }
  const last = ways
    .filter(({ column }) => {
      const wide = extentMm - (column + 0.5) * cellMm;
      return wide + bandMm <= choices.rooms.at(-1)! && wide >= choices.leastMm;
    })
    .reduce<Way | undefined>((best, one) => (best && best.total <= one.total ? best : one), undefined);
  if (!last) return undefined;
  const found: Seam[] = [];
  for (let one: Way | undefined = last; one; one = one.before) found.unshift(seamOf(one.way, band, grid));
  return { seams: found, cost: last.total };
}

/**
 * Seams moved to where the artwork is calmest.
 *
 * @param detail of all of it; for level seams transposed
 * @param extentMm across the seams
 * @returns nothing where no places within their ranges keep every strip within its room
 */
export function calmSeams(detail: Detail, extentMm: number, seams: readonly Seam[], choices: CalmChoices): Seam[] | undefined {
  if (seams.length === 0) return [];
  const grid: Grid = { ...detail, extentMm, cellMm: extentMm / detail.columns };
  const straight = seams.map(({ at }) => ({ at, course: [] }));
  const most = choices.curved ? Math.floor(Math.min(MOST_BAND_MM, choices.rangeMm) / grid.cellMm) : 0;
  // The more they bend, the less is left of the film to move them in: the best of some.
  let best: Found | undefined;
  for (let band = most; ; band = Math.floor(band / 2)) {
    const found = within(grid, straight, choices, band);
    if (found && found.cost < (best?.cost ?? Infinity)) best = found;
    if (band === 0) return best?.seams;
  }
}
