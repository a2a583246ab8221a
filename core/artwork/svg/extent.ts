import { apply, chain, type Matrix, type Point } from '../../geometry/matrix';
import { transformPath, type Path } from '../../geometry/path';
import { matrixOf, number, readPathData, type Plain } from './plain-tree';

/** A box by its sides. */
export interface Extent {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

export const nothing = (): Extent => ({ x0: Infinity, y0: Infinity, x1: -Infinity, y1: -Infinity });
export const isNothing = (e: Extent): boolean => !(e.x1 >= e.x0 && e.y1 >= e.y0);

export function include(e: Extent, p: Point, by = 0): void {
  e.x0 = Math.min(e.x0, p.x - by);
  e.y0 = Math.min(e.y0, p.y - by);
  e.x1 = Math.max(e.x1, p.x + by);
  e.y1 = Math.max(e.y1, p.y + by);
}

export function join(e: Extent, other: Extent): void {
  if (isNothing(other)) return;
  include(e, { x: other.x0, y: other.y0 });
  include(e, { x: other.x1, y: other.y1 });
}

export const overlap = (a: Extent, b: Extent): Extent => ({
  x0: Math.max(a.x0, b.x0),
  y0: Math.max(a.y0, b.y0),
  x1: Math.min(a.x1, b.x1),
  y1: Math.min(a.y1, b.y1)
});

export function mapped(e: Extent, m: Matrix): Extent {
  const out = nothing();
  for (const x of [e.x0, e.x1]) for (const y of [e.y0, e.y1]) include(out, apply(m, { x, y }));
  return out;
}

/** The exact box of a path, curves by their turning points. */
export function pathExtent(path: Path, into = nothing()): Extent {
  let at: Point = { x: 0, y: 0 };
  for (const segment of path) {
    if (segment.kind === 'close') continue;
    if (segment.kind === 'curve') {
      for (const t of [
        ...turns(at.x, segment.c1.x, segment.c2.x, segment.to.x),
        ...turns(at.y, segment.c1.y, segment.c2.y, segment.to.y)
      ])
        include(into, along(at, segment.c1, segment.c2, segment.to, t));
    }
    include(into, segment.to);
    at = segment.to;
  }
  return into;
}

/** Where one coordinate of a curve turns back. */
function turns(p0: number, p1: number, p2: number, p3: number): number[] {
  const a = -p0 + 3 * p1 - 3 * p2 + p3;
  const b = 2 * (p0 - 2 * p1 + p2);
  const c = p1 - p0;
  if (Math.abs(a) < 1e-12) return Math.abs(b) < 1e-12 ? [] : [-c / b].filter(isInside);
  const root = b * b - 4 * a * c;
  if (root < 0) return [];
  return [(-b + Math.sqrt(root)) / (2 * a), (-b - Math.sqrt(root)) / (2 * a)].filter(isInside);
}

const isInside = (t: number) => t > 0 && t < 1;

function along(p0: Point, p1: Point, p2: Point, p3: Point, t: number): Point {
  const u = 1 - t;
  const [a, b, c, d] = [u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t];
  return { x: a * p0.x + b * p1.x + c * p2.x + d * p3.x, y: a * p0.y + b * p1.y + c * p2.y + d * p3.y };
}

/** The box of what a node fills, in its own coordinates: the “object bounding box” of SVG, strokes and clips left out. */
export function objectBox(node: Plain, m: Matrix = [1, 0, 0, 1, 0, 0], into = nothing()): Extent {
  if (node.tag === 'path') {
    pathExtent(transformPath(readPathData(node.attributes['d'] ?? ''), m), into);
  } else if (node.tag === 'image') {
    const [x, y] = [number(node, 'x'), number(node, 'y')];
    join(into, mapped({ x0: x, y0: y, x1: x + number(node, 'width'), y1: y + number(node, 'height') }, m));
  }
  for (const kid of node.kids) objectBox(kid, chain(matrixOf(kid), m), into);
  return into;
}
