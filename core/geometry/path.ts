import { boxAround, type Box } from './box';
import { apply, type Matrix, type Point } from './matrix';

/** A piece of outline; coordinates are absolute. */
export type Segment =
  | { kind: 'move'; to: Point }
  | { kind: 'line'; to: Point }
  | { kind: 'curve'; c1: Point; c2: Point; to: Point }
  | { kind: 'close' };

export type Path = Segment[];

/** One run of straight lines; a closed one does not repeat its first point. */
export interface Polyline {
  points: Point[];
  closed: boolean;
}

export function transformPath(path: Path, m: Matrix): Path {
  return path.map((segment): Segment => {
    switch (segment.kind) {
      case 'close':
        return segment;
      case 'curve':
        return { kind: 'curve', c1: apply(m, segment.c1), c2: apply(m, segment.c2), to: apply(m, segment.to) };
      default:
        return { kind: segment.kind, to: apply(m, segment.to) };
    }
  });
}

export function rectanglePath(r: Box): Path {
  return [
    { kind: 'move', to: { x: r.x, y: r.y } },
    { kind: 'line', to: { x: r.x + r.width, y: r.y } },
    { kind: 'line', to: { x: r.x + r.width, y: r.y + r.height } },
    { kind: 'line', to: { x: r.x, y: r.y + r.height } },
    { kind: 'close' }
  ];
}

/** SVG path data, rounded to so many decimals. */
export function pathData(path: Path, decimals = 3): string {
  const whole = 10 ** decimals;
  const n = (v: number) => String(Math.round(v * whole) / whole);
  const p = (q: Point) => `${n(q.x)} ${n(q.y)}`;
  return path
    .map((s) => {
      if (s.kind === 'close') return 'Z';
      if (s.kind === 'curve') return `C${p(s.c1)} ${p(s.c2)} ${p(s.to)}`;
      return `${s.kind === 'move' ? 'M' : 'L'}${p(s.to)}`;
    })
    .join('');
}

/** Reads what `pathData` writes: M, L, C and Z with absolute figures. @throws RangeError at anything else */
export function parsePathData(data: string): Path {
  const path: Path = [];
  for (const [, letter = '', rest = ''] of data.matchAll(/([A-Za-z])([^A-Za-z]*)/g)) {
    const figures = rest
      .split(/[\s,]+/)
      .filter(Boolean)
      .map(Number);
    if (figures.some((figure) => !Number.isFinite(figure))) throw new RangeError(`“${rest.slice(0, 40)}” is not figures.`);
    const p = (i: number): Point => ({ x: figures[i]!, y: figures[i + 1]! });
    if (letter === 'Z' && figures.length === 0) path.push({ kind: 'close' });
    else if (letter === 'M' && figures.length === 2) path.push({ kind: 'move', to: p(0) });
    else if (letter === 'L' && figures.length === 2) path.push({ kind: 'line', to: p(0) });
    else if (letter === 'C' && figures.length === 6) path.push({ kind: 'curve', c1: p(0), c2: p(2), to: p(4) });
    else throw new RangeError(`“${letter}${rest.slice(0, 40)}” is not a piece of outline.`);
  }
  if (path.length > 0 && path[0]?.kind !== 'move') throw new RangeError('An outline begins with M.');
  return path;
}

/** A path's subpaths, each beginning with its own move. */
export function subpaths(path: Path): Path[] {
  const out: Path[] = [];
  for (const segment of path) {
    if (segment.kind === 'move' || out.length === 0) out.push([]);
    out[out.length - 1]?.push(segment);
  }
  return out.filter((part) => part.length > 1);
}

/** Straight lines as a path. */
export function polylinePath(line: Polyline): Path {
  const path = line.points.map((to, i) => ({ kind: i === 0 ? ('move' as const) : ('line' as const), to }));
  return line.closed ? [...path, { kind: 'close' }] : path;
}

/**
 * Turns curves into lines that stay within `tolerance` of them.
 * The count of pieces bounds the second difference of the curve: the chord of a cubic piece of parameter width 1/n
 * departs by at most 6·dd/(8·n²), dd being the largest second difference of the control points (Wang 1984).
 */
export function flatten(path: Path, tolerance: number): Polyline[] {
  const lines: Polyline[] = [];
  let current: Polyline | undefined;
  let start: Point = { x: 0, y: 0 };
  let at: Point = start;
  const begin = (p: Point) => {
    current = { points: [p], closed: false };
    lines.push(current);
  };
  for (const segment of path) {
    if (segment.kind === 'move') {
      start = at = segment.to;
      current = undefined;
      continue;
    }
    if (segment.kind === 'close') {
      if (current) {
        current.closed = true;
        const last = current.points[current.points.length - 1];
        if (last && current.points.length > 1 && Math.hypot(last.x - start.x, last.y - start.y) < 1e-9) current.points.pop();
      }
      at = start;
      current = undefined;
      continue;
    }
    if (!current) begin(at);
    if (segment.kind === 'line') {
      current?.points.push(segment.to);
    } else {
      const { c1, c2, to } = segment;
      const dd = Math.max(
        Math.hypot(at.x - 2 * c1.x + c2.x, at.y - 2 * c1.y + c2.y),
        Math.hypot(c1.x - 2 * c2.x + to.x, c1.y - 2 * c2.y + to.y)
      );
      const pieces = Math.min(500, Math.max(1, Math.ceil(Math.sqrt((0.75 * dd) / tolerance))));
      for (let i = 1; i <= pieces; i++) {
        const t = i / pieces;
        const u = 1 - t;
        const b0 = u * u * u;
        const b1 = 3 * u * u * t;
        const b2 = 3 * u * t * t;
        const b3 = t * t * t;
        current?.points.push({
          x: b0 * at.x + b1 * c1.x + b2 * c2.x + b3 * to.x,
          y: b0 * at.y + b1 * c1.y + b2 * c2.y + b3 * to.y
        });
      }
    }
    at = segment.to;
  }
  // A path that comes back to its start without saying so is closed for the knife all the same.
  for (const line of lines) {
    const first = line.points[0];
    const last = line.points[line.points.length - 1];
    if (!line.closed && first && last && line.points.length > 2 && Math.hypot(first.x - last.x, first.y - last.y) < 1e-6) {
      line.closed = true;
      line.points.pop();
    }
  }
  return lines.filter((line) => line.points.length > 1);
}

/** The smallest box around the lines. */
export const bounds = (lines: readonly Polyline[]): Box | undefined => boxAround(lines.map(({ points }) => points));

/** Twice-signed area halved: positive when the line runs clockwise with y down. */
export function signedArea(points: readonly Point[]): number {
  let sum = 0;
  for (let i = 0; i < points.length; i++) {
    const p = points[i]!;
    const q = points[(i + 1) % points.length]!;
    sum += p.x * q.y - q.x * p.y;
  }
  return sum / 2;
}

/** The area within rings, holes taken off, where they run the other way. */
export const areaWithin = (rings: readonly (readonly Point[])[]): number =>
  Math.abs(rings.reduce((sum, ring) => sum + signedArea(ring), 0));

export function lengthOf(line: Polyline): number {
  let sum = 0;
  const { points } = line;
  for (let i = 1; i < points.length; i++) {
    const p = points[i - 1]!;
    const q = points[i]!;
    sum += Math.hypot(q.x - p.x, q.y - p.y);
  }
  if (line.closed) {
    const p = points[points.length - 1]!;
    const q = points[0]!;
    sum += Math.hypot(q.x - p.x, q.y - p.y);
  }
  return sum;
}

/** Even-odd test; points on the edge may fall on either side. */
export function contains(points: readonly Point[], p: Point): boolean {
  let inside = false;
  for (let i = 0, j = points.length - 1; i < points.length; j = i++) {
    const a = points[i]!;
    const b = points[j]!;
    if (a.y > p.y !== b.y > p.y && p.x < ((b.x - a.x) * (p.y - a.y)) / (b.y - a.y) + a.x) inside = !inside;
  }
  return inside;
}

/** How far along a segment, 0…1, the place nearest to a point is. */
export function alongSegment(a: Point, b: Point, p: Point): number {
  const dx = b.x - a.x;
  const dy = b.y - a.y;
  const square = dx * dx + dy * dy;
  return square === 0 ? 0 : Math.min(1, Math.max(0, ((p.x - a.x) * dx + (p.y - a.y) * dy) / square));
}

export function distanceToSegment(a: Point, b: Point, p: Point): number {
  const t = alongSegment(a, b, p);
  return Math.hypot(p.x - a.x - t * (b.x - a.x), p.y - a.y - t * (b.y - a.y));
}

/** The distance from a point to the nearest place on the line. */
export function distanceTo({ points, closed }: Polyline, p: Point): number {
  let best = Infinity;
  const count = closed ? points.length : points.length - 1;
  for (let i = 0; i < count; i++) best = Math.min(best, distanceToSegment(points[i]!, points[(i + 1) % points.length]!, p));
  return best;
}
