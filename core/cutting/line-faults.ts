import type { Point } from '../geometry/matrix';
import { bounds, contains, distanceToSegment, lengthOf, signedArea, type Polyline } from '../geometry/path';
import type { Box } from '../geometry/box';
import { difference, grow } from '../geometry/areas';

/** What is wrong with lines for a knife. Each function gives places, mm. */

interface Segment {
  line: number;
  index: number;
  a: Point;
  b: Point;
}

const MOST_FOUND = 100;

/** Where lines cross themselves or each other; ends that touch do not count. */
export function crossings(lines: readonly Polyline[]): Point[] {
  const segments: Segment[] = [];
  lines.forEach((line, l) => {
    const n = line.closed ? line.points.length : line.points.length - 1;
    for (let i = 0; i < n; i++) {
      segments.push({ line: l, index: i, a: line.points[i]!, b: line.points[(i + 1) % line.points.length]! });
    }
  });
  const found: Point[] = [];
  const neighbours = (p: Segment, q: Segment) => {
    if (p.line !== q.line) return false;
    const line = lines[p.line]!;
    const gap = Math.abs(p.index - q.index);
    return gap <= 1 || (line.closed && gap === line.points.length - 1);
  };
  for (const cell of byCells(segments)) {
    for (let i = 0; i < cell.length; i++) {
      for (let j = i + 1; j < cell.length; j++) {
        const p = cell[i]!;
        const q = cell[j]!;
        if (neighbours(p, q)) continue;
        const at = crossing(p, q);
        if (at && !found.some((other) => Math.hypot(other.x - at.x, other.y - at.y) < 1e-3)) found.push(at);
        if (found.length >= MOST_FOUND) return found;
      }
    }
  }
  return found;
}

/** Segments sorted into cells of a grid, so that only near ones are compared. */
function byCells(segments: readonly Segment[]): Segment[][] {
  const box = bounds([{ points: segments.flatMap((s) => [s.a, s.b]), closed: false }]);
  if (!box) return [];
  const size = Math.max(box.width, box.height, 1e-6) / Math.min(256, Math.max(1, Math.sqrt(segments.length)));
  const cells = new Map<number, Segment[]>();
  const column = (x: number) => Math.floor((x - box.x) / size);
  const row = (y: number) => Math.floor((y - box.y) / size);
  for (const segment of segments) {
    const { a, b } = segment;
    for (let x = column(Math.min(a.x, b.x)); x <= column(Math.max(a.x, b.x)); x++) {
      for (let y = row(Math.min(a.y, b.y)); y <= row(Math.max(a.y, b.y)); y++) {
        const key = y * 1000 + x;
        const cell = cells.get(key);
        if (cell) cell.push(segment);
        else cells.set(key, [segment]);
      }
    }
  }
  return [...cells.values()];
}

function crossing(p: Segment, q: Segment): Point | undefined {
  const [rx, ry, sx, sy] = [p.b.x - p.a.x, p.b.y - p.a.y, q.b.x - q.a.x, q.b.y - q.a.y];
  const cross = rx * sy - ry * sx;
  if (Math.abs(cross) < 1e-12) return undefined;
  const t = ((q.a.x - p.a.x) * sy - (q.a.y - p.a.y) * sx) / cross;
  const u = ((q.a.x - p.a.x) * ry - (q.a.y - p.a.y) * rx) / cross;
  const e = 1e-6;
  return t > e && t < 1 - e && u > e && u < 1 - e ? { x: p.a.x + t * rx, y: p.a.y + t * ry } : undefined;
}

/** Lines that lie on another, within `tolerance`: the second of each pair. @returns indices */
export function doubles(lines: readonly Polyline[], tolerance: number): number[] {
  const boxes = lines.map((line) => bounds([line]) as Box);
  const lengths = lines.map(lengthOf);
  const out: number[] = [];
  // Only boxes that begin at about the same place are compared.
  const near = new Map<string, number[]>();
  const cell = (v: number) => Math.floor(v / (4 * tolerance));
  lines.forEach((line, i) => {
    const a = boxes[i]!;
    const before: number[] = [];
    for (let x = -1; x <= 1; x++) {
      for (let y = -1; y <= 1; y++) before.push(...(near.get(`${cell(a.x) + x}/${cell(a.y) + y}`) ?? []));
    }
    const key = `${cell(a.x)}/${cell(a.y)}`;
    near.set(key, [...(near.get(key) ?? []), i]);
    for (const j of before) {
      const b = boxes[j]!;
      if (Math.abs(a.x - b.x) + Math.abs(a.y - b.y) > 2 * tolerance) continue;
      if (Math.abs(a.width - b.width) + Math.abs(a.height - b.height) > 4 * tolerance) continue;
      const lengthOff = Math.abs(lengths[i]! - lengths[j]!);
      if (lengthOff > Math.max(8 * tolerance, 0.02 * lengths[i]!)) continue;
      const other = lines[j]!;
      const step = Math.max(1, Math.floor(line.points.length / 50));
      const lies = line.points.every((p, k) => k % step !== 0 || nearLine(other, p, tolerance));
      if (lies) {
        out.push(i);
        return;
      }
    }
  });
  return out;
}

function nearLine({ points, closed }: Polyline, p: Point, tolerance: number): boolean {
  const n = closed ? points.length : points.length - 1;
  for (let i = 0; i < n; i++) if (distanceToSegment(points[i]!, points[(i + 1) % points.length]!, p) <= tolerance) return true;
  return false;
}

/**
 * Parts of an area that are too thin for a knife of this width: what goes when the area is shrunk by half of it and grown
 * again (a morphological opening), both of the area and of what is around it. Corners alone leave less than is counted.
 */
export function slivers(rings: readonly Point[][], knifeMm: number): Box[] {
  const half = knifeMm / 2;
  const box = bounds(rings.map((points) => ({ points, closed: true })));
  if (!box) return [];
  const thin: Box[] = [];
  const add = (area: readonly Point[][], opened: readonly Point[][]) => {
    // What the rounding of arcs leaves along a curve is long too, but has no width: it does not outlast being shrunk a little.
    for (const ring of grow(difference(area, opened), -0.03 * knifeMm, 'sharp')) {
      const part = bounds([{ points: ring, closed: true }]) as Box;
      if (signedArea(ring) > 0 && Math.hypot(part.width, part.height) > 1.5 * knifeMm) thin.push(part);
    }
  };
  add(rings, grow(grow(rings, -half, 'sharp'), half, 'round'));
  const frame = grow([corner(box)], 3 * knifeMm, 'sharp');
  const around = difference(frame, rings);
  add(around, grow(grow(around, -half, 'sharp'), half, 'round'));
  return thin;
}

const corner = (box: Box): Point[] => [
  { x: box.x, y: box.y },
  { x: box.x + box.width, y: box.y },
  { x: box.x + box.width, y: box.y + box.height },
  { x: box.x, y: box.y + box.height }
];

/** Pieces that stay when the waste is peeled off and are so small that they come off with it. */
export function islands(lines: readonly Polyline[], leastMm: number): Box[] {
  const closed = lines.filter((line) => line.closed);
  const boxes = closed.map((line) => bounds([line]) as Box);
  return closed.flatMap((line, i) => {
    const box = boxes[i]!;
    if (Math.max(box.width, box.height) >= leastMm) return [];
    const p = line.points[0]!;
    const depth = closed.filter((outer, j) => j !== i && boxes[j]!.width > box.width && contains(outer.points, p)).length;
    // Of lines within each other every second is a hole, which is waste itself.
    return depth % 2 === 0 ? [box] : [];
  });
}
