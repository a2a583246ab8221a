import Flatbush from 'flatbush';
import { TOOLS, type Tool } from '../artwork/roles';
import type { Point } from '../geometry/matrix';
import { alongSegment, bounds, contains, signedArea, type Polyline } from '../geometry/path';
import { shortTour } from './tour';

/** A line for the knife, with what it belongs to. */
export interface CutLine extends Polyline {
  tool: Tool;
}

const ORIGIN: Point = { x: 0, y: 0 };
const NO_BOX = { x: 0, y: 0, width: 0, height: 0 };

/** Of each line the smallest closed one around it, by its place in the list; −1 for the outermost. */
export function parents(lines: readonly CutLine[]): number[] {
  if (lines.length === 0) return [];
  const boxes = lines.map((line) => bounds([line]) ?? NO_BOX);
  const areas = lines.map((line) => (line.closed ? Math.abs(signedArea(line.points)) : 0));
  const tree = new Flatbush(lines.length);
  for (const { x, y, width, height } of boxes) tree.add(x, y, x + width, y + height);
  tree.finish();
  return lines.map((line, i) => {
    const p = line.points[0]!;
    let parent = -1;
    for (const j of tree.search(p.x, p.y, p.x, p.y)) {
      const isSmaller = parent < 0 || areas[j]! < areas[parent]!;
      if (j === i || !isSmaller || areas[j]! <= areas[i]! || !contains(lines[j]!.points, p)) continue;
      parent = j;
    }
    return parent;
  });
}

/** mm that the knife travels lifted, from the origin through all lines and no farther. */
export function travel(lines: readonly Polyline[]): number {
  let at = ORIGIN;
  let sum = 0;
  for (const line of lines) {
    sum += distance(at, line.points[0]!);
    at = endOf(line);
  }
  return sum;
}

/**
 * The order of cutting. A long run is cut stretch by stretch, each no longer than the cutter holds still; in each kiss cuts
 * come first and through cuts last, since a freed piece no longer lies still, and what lies inside of a line before it. The
 * way between the lines is as short as a search finds it. Closed lines begin where the knife passes, and not at a corner.
 *
 * @param reach mm along the run that are cut without moving on; all of it where it is not said
 */
export function orderCuts(lines: readonly CutLine[], reach = Infinity): CutLine[] {
  const out: CutLine[] = [];
  let at = ORIGIN;
  for (const stretch of stretchesOf(lines, reach))
    for (const tool of TOOLS) {
      const ordered = nestedTour(
        stretch.filter((line) => line.tool === tool),
        at
      );
      out.push(...ordered);
      at = ordered.length > 0 ? middle(ordered.at(-1)!) : at;
    }
  return withStarts(out);
}

/** Lines by stretches along y. A line lies in the stretch that holds all of it; a longer one than the reach has its own. */
export function stretchesOf(lines: readonly CutLine[], reach: number): CutLine[][] {
  if (!Number.isFinite(reach)) return [[...lines]];
  const spans = lines.map((line) => {
    const box = bounds([line]) ?? NO_BOX;
    return { line, from: box.y, to: box.y + box.height };
  });
  // By their ends: what lies inside of a line never comes after it.
  spans.sort((a, b) => a.to - b.to || b.from - a.from);
  const stretches: CutLine[][] = [];
  let least = Infinity;
  for (const { line, from, to } of spans) {
    const open = stretches.at(-1);
    if (open && to - Math.min(least, from) <= reach) {
      open.push(line);
      least = Math.min(least, from);
    } else {
      stretches.push([line]);
      least = from;
    }
  }
  return stretches;
}

/** A short tour through the outermost lines, each after all that lies in it. */
function nestedTour(lines: readonly CutLine[], start: Point): CutLine[] {
  const inner = new Map<number, number[]>();
  parents(lines).forEach((parent, i) => {
    const siblings = inner.get(parent);
    if (siblings) siblings.push(i);
    else inner.set(parent, [i]);
  });
  const out: CutLine[] = [];
  let at = start;
  const visit = (parent: number) => {
    const list = inner.get(parent) ?? [];
    const [, ...tour] = shortTour([at, ...list.map((i) => middle(lines[i]!))]);
    for (const place of tour) {
      const i = list[place - 1]!;
      visit(i);
      out.push(lines[i]!);
      at = middle(lines[i]!);
    }
  };
  visit(-1);
  return out;
}

const distance = (p: Point, q: Point): number => {
  const [dx, dy] = [p.x - q.x, p.y - q.y];
  return Math.sqrt(dx * dx + dy * dy);
};

function middle(line: Polyline): Point {
  const box = bounds([line]);
  return box ? { x: box.x + box.width / 2, y: box.y + box.height / 2 } : ORIGIN;
}

const endOf = ({ points, closed }: Polyline): Point => (closed ? points[0]! : points[points.length - 1]!);

/** Of a line with more edges so many are looked at. */
const MOST_EDGES = 64;
/** A start keeps so far from corners, mm, where its edge is long enough: the knife is straight then when it goes in. */
const OFF_CORNER_MM = 1;
const SWEEPS = 3;

/** Where lines begin, an open one at either end: changed one after the other while the way from line to line grows shorter. */
function withStarts(lines: readonly CutLine[]): CutLine[] {
  const out = [...lines];
  const middles = lines.map(middle);
  for (let sweep = 0; sweep < SWEEPS; sweep++)
    for (let i = 0; i < out.length; i++) {
      const before = i === 0 ? ORIGIN : endOf(out[i - 1]!);
      const next = out[i + 1];
      const after = next && (sweep === 0 ? middles[i + 1]! : next.points[0]!);
      // Always from the line as it came, so that starts do not pile up on it.
      out[i] = begun(lines[i]!, before, after);
    }
  return out;
}

/** A line from where the way from one place over it to another is shortest. */
function begun(line: CutLine, before: Point, after: Point | undefined): CutLine {
  const { points, closed } = line;
  if (!closed) {
    const [first, last] = [points[0]!, points[points.length - 1]!];
    const way = (from: Point, to: Point) => distance(before, from) + (after ? distance(to, after) : 0);
    return way(last, first) < way(first, last) ? { ...line, points: [...points].reverse() } : line;
  }
  const n = points.length;
  const every = Math.ceil(n / MOST_EDGES);
  const towards = after ? { x: (before.x + after.x) / 2, y: (before.y + after.y) / 2 } : before;
  let [edge, start, least] = [0, points[0]!, Infinity];
  for (let i = 0; i < n; i += every) {
    const [a, b] = [points[i]!, points[i + 1 === n ? 0 : i + 1]!];
    const keep = Math.min(0.5, OFF_CORNER_MM / Math.max(1e-9, distance(a, b)));
    const t = Math.min(1 - keep, Math.max(keep, alongSegment(a, b, towards)));
    const p = { x: a.x + t * (b.x - a.x), y: a.y + t * (b.y - a.y) };
    const way = distance(before, p) + (after ? distance(p, after) : 0);
    if (way < least) [edge, start, least] = [i, p, way];
  }
  return { ...line, points: [start, ...points.slice(edge + 1), ...points.slice(0, edge + 1)] };
}
