import { TOOLS, type Tool } from '../artwork/roles';
import type { Point } from '../geometry/matrix';
import { bounds, contains, signedArea, type Polyline } from '../geometry/path';

/** A line for the knife, with what it belongs to. */
export interface CutLine extends Polyline {
  tool: Tool;
}

/** How deep each line lies in closed others: 0 is outermost. */
export function depths(lines: readonly CutLine[]): number[] {
  const boxes = lines.map((line) => bounds([line]));
  return lines.map((line, i) => {
    const p = line.points[0]!;
    return lines.filter((outer, j) => {
      const box = boxes[j];
      if (i === j || !outer.closed || !box) return false;
      if (p.x < box.x || p.x > box.x + box.width || p.y < box.y || p.y > box.y + box.height) return false;
      if (Math.abs(signedArea(outer.points)) <= (line.closed ? Math.abs(signedArea(line.points)) : 0)) return false;
      return contains(outer.points, p);
    }).length;
  });
}

/** mm that the knife travels lifted, from the origin through all lines and no farther. */
export function travel(lines: readonly Polyline[]): number {
  let at: Point = { x: 0, y: 0 };
  let sum = 0;
  for (const line of lines) {
    const first = line.points[0]!;
    sum += Math.hypot(first.x - at.x, first.y - at.y);
    at = line.closed ? first : line.points[line.points.length - 1]!;
  }
  return sum;
}

/**
 * The order of cutting: kiss cuts first and through cuts last, since a freed piece no longer lies still; inner before outer, and near to near with 2-opt among equals.
 * Closed lines start at the point nearest to the knife.
 */
export function orderCuts(lines: readonly CutLine[]): CutLine[] {
  const depth = depths(lines);
  const groups = new Map<string, CutLine[]>();
  lines.forEach((line, i) => {
    const key = `${TOOLS.indexOf(line.tool)}/${String(1000 - (depth[i] ?? 0)).padStart(4, '0')}`;
    groups.set(key, [...(groups.get(key) ?? []), line]);
  });
  const out: CutLine[] = [];
  let at: Point = { x: 0, y: 0 };
  for (const key of [...groups.keys()].sort()) {
    for (const line of shortTour(groups.get(key) ?? [], at)) {
      const placed = startNear(line, at);
      out.push(placed);
      at = placed.closed ? placed.points[0]! : placed.points[placed.points.length - 1]!;
    }
  }
  return out;
}

function middle(line: Polyline): Point {
  const box = bounds([line]);
  return box ? { x: box.x + box.width / 2, y: box.y + box.height / 2 } : { x: 0, y: 0 };
}

const MOST_FOR_TWO_OPT = 1500;

function shortTour(lines: readonly CutLine[], start: Point): CutLine[] {
  const centres = lines.map(middle);
  const left = new Set(lines.keys());
  const tour: number[] = [];
  let at = start;
  while (left.size > 0) {
    let best = -1;
    let bestDistance = Infinity;
    for (const i of left) {
      const c = centres[i]!;
      const d = (c.x - at.x) ** 2 + (c.y - at.y) ** 2;
      if (d < bestDistance) {
        bestDistance = d;
        best = i;
      }
    }
    left.delete(best);
    tour.push(best);
    at = centres[best]!;
  }
  if (tour.length <= MOST_FOR_TWO_OPT) twoOpt(tour, centres, start);
  return tour.map((i) => lines[i]!);
}

/** Reverses stretches of the tour while that shortens it (Croes 1958); a bounded number of rounds. */
function twoOpt(tour: number[], centres: readonly Point[], start: Point): void {
  const point = (i: number) => (i < 0 ? start : centres[tour[i]!]!);
  const gap = (p: Point, q: Point) => Math.hypot(p.x - q.x, p.y - q.y);
  for (let round = 0; round < 20; round++) {
    let improved = false;
    for (let i = 0; i < tour.length - 1; i++) {
      for (let j = i + 1; j < tour.length; j++) {
        const before = gap(point(i - 1), point(i)) + (j + 1 < tour.length ? gap(point(j), point(j + 1)) : 0);
        const after = gap(point(i - 1), point(j)) + (j + 1 < tour.length ? gap(point(i), point(j + 1)) : 0);
        if (after < before - 1e-9) {
          tour.splice(i, j - i + 1, ...tour.slice(i, j + 1).reverse());
          improved = true;
        }
      }
    }
    if (!improved) return;
  }
}

function startNear(line: CutLine, at: Point): CutLine {
  const gap = (p: Point) => Math.hypot(p.x - at.x, p.y - at.y);
  if (!line.closed) {
    const first = line.points[0]!;
    const last = line.points[line.points.length - 1]!;
    return gap(last) < gap(first) ? { ...line, points: [...line.points].reverse() } : line;
  }
  let best = 0;
  line.points.forEach((p, i) => {
    if (gap(p) < gap(line.points[best]!)) best = i;
  });
  return { ...line, points: [...line.points.slice(best), ...line.points.slice(0, best)] };
}
