import type { Point } from '../geometry/matrix';
import { alongSegment, contains, signedArea } from '../geometry/path';
import { filled, strokeArea } from '../geometry/areas';

/** More pieces than this are not joined: finding the nearest places would take too long. */
export const MOST_BRIDGED = 400;

/**
 * Joins separate pieces to one by bridges between their nearest places, along the shortest tree (Prim 1957).
 *
 * @param rings outer rings, and holes the other way round; holes stay, but for what bridges take of them
 */
export function bridge(rings: readonly Point[][], widthMm: number): Point[][] {
  const pieces = piecesOf(rings);
  if (pieces.length < 2 || pieces.length > MOST_BRIDGED) return [...rings];
  const coarse = pieces.map((piece) => piece.map((ring) => thin(ring, 200)));
  const spans: { points: Point[]; closed: boolean }[] = [];
  const near = pieces.map((_, i) => ({ to: 0, distance: Infinity, from: coarse[i]![0]![0]!, at: coarse[0]![0]![0]! }));
  const left = new Set(pieces.keys());
  let current = 0;
  left.delete(0);
  while (left.size > 0) {
    for (const i of left) {
      for (const ring of coarse[current]!)
        for (const other of coarse[i]!) {
          const found = nearest(ring, other);
          if (found.distance < near[i]!.distance) near[i] = { to: current, ...found };
        }
    }
    let next = -1;
    for (const i of left) if (next < 0 || near[i]!.distance < near[next]!.distance) next = i;
    const joint = near[next]!;
    spans.push({ points: lengthened(joint.at, joint.from, widthMm), closed: false });
    left.delete(next);
    current = next;
  }
  return filled([...rings, ...strokeArea(spans, widthMm)], 'nonzero');
}

/** Each outer ring with the holes that are its own. */
function piecesOf(rings: readonly Point[][]): Point[][][] {
  const pieces = rings.filter((ring) => signedArea(ring) > 0).map((ring) => [ring]);
  for (const hole of rings) {
    if (signedArea(hole) > 0) continue;
    const around = pieces.filter(([outer]) => contains(outer!, hole[0]!));
    around.sort(([p], [q]) => signedArea(p!) - signedArea(q!));
    around[0]?.push(hole);
  }
  return pieces;
}

/** A bridge reaches into both pieces, so that its round ends do not show. */
function lengthened(a: Point, b: Point, by: number): Point[] {
  const span = Math.hypot(b.x - a.x, b.y - a.y) || 1;
  const [dx, dy] = [((b.x - a.x) / span) * (by / 2), ((b.y - a.y) / span) * (by / 2)];
  return [
    { x: a.x - dx, y: a.y - dy },
    { x: b.x + dx, y: b.y + dy }
  ];
}

function thin(ring: Point[], most: number): Point[] {
  const step = Math.max(1, Math.floor(ring.length / most));
  return ring.filter((_, i) => i % step === 0);
}

/** The two nearest places of two rings, each a corner of one and any place of the other's edge. */
function nearest(ring: Point[], other: Point[]): { distance: number; from: Point; at: Point } {
  let best = { distance: Infinity, from: other[0] as Point, at: ring[0] as Point };
  const search = (points: Point[], edges: Point[], swap: boolean) => {
    for (const p of points) {
      for (let i = 0; i < edges.length; i++) {
        const a = edges[i] as Point;
        const b = edges[(i + 1) % edges.length] as Point;
        const t = alongSegment(a, b, p);
        const q = { x: a.x + t * (b.x - a.x), y: a.y + t * (b.y - a.y) };
        const distance = Math.hypot(p.x - q.x, p.y - q.y);
        if (distance < best.distance) best = swap ? { distance, from: q, at: p } : { distance, from: p, at: q };
      }
    }
  };
  search(other, ring, false);
  search(ring, other, true);
  return best;
}
