import Flatbush from 'flatbush';
import { areaOf } from '../geometry/areas';
import { boxAround } from '../geometry/box';
import type { Point } from '../geometry/matrix';
import { pathData, polylinePath, type Polyline } from '../geometry/path';
import type { Thing } from './jig';

/** From lines that somebody drew to the outline of a thing. */

export class OutlineError extends Error {
  override name = 'OutlineError';
}

/** Ends that are this near to each other meet, mm: drawings are joined of pieces. */
const MEET_MM = 0.1;
const MOST_LINES = 5000;

const far = (p: Point, q: Point): number => Math.hypot(p.x - q.x, p.y - q.y);

/** Lines that begin where others end are one. */
function joined(lines: readonly Polyline[]): Polyline[] {
  const done: Polyline[] = [];
  const open: Point[][] = [];
  for (const { points, closed } of lines) {
    if (points.length < 2) continue;
    if (closed || (points.length > 2 && far(points[0]!, points.at(-1)!) < MEET_MM)) done.push({ points, closed: true });
    else open.push([...points]);
  }
  while (open.length > 0) {
    let line = open.pop()!;
    for (;;) {
      if (line.length > 2 && far(line[0]!, line.at(-1)!) < MEET_MM) break;
      const next = open.findIndex(
        (other) => far(line.at(-1)!, other[0]!) < MEET_MM || far(line.at(-1)!, other.at(-1)!) < MEET_MM
      );
      if (next < 0) break;
      const [other] = open.splice(next, 1);
      line = [...line, ...(far(line.at(-1)!, other![0]!) < MEET_MM ? other! : other!.reverse()).slice(1)];
    }
    done.push({ points: line, closed: line.length > 2 && far(line[0]!, line.at(-1)!) < MEET_MM });
  }
  return done.map(({ points, closed }) => ({
    // The last point of a ring is its first.
    points: closed && points.length > 3 && far(points[0]!, points.at(-1)!) < MEET_MM ? points.slice(0, -1) : points,
    closed
  }));
}

/** Where a ring crosses itself; nothing where it does not. */
function crossing(ring: readonly Point[]): Point | undefined {
  const n = ring.length;
  const tree = new Flatbush(n);
  ring.forEach((p, i) => {
    const q = ring[(i + 1) % n]!;
    tree.add(Math.min(p.x, q.x), Math.min(p.y, q.y), Math.max(p.x, q.x), Math.max(p.y, q.y));
  });
  tree.finish();
  for (let i = 0; i < n; i++) {
    const [p, q] = [ring[i]!, ring[(i + 1) % n]!];
    for (const j of tree.search(Math.min(p.x, q.x), Math.min(p.y, q.y), Math.max(p.x, q.x), Math.max(p.y, q.y))) {
      // Neighbours meet at their corner.
      if (j <= i + 1 || (i === 0 && j === n - 1)) continue;
      const at = meeting(p, q, ring[j]!, ring[(j + 1) % n]!);
      if (at) return at;
    }
  }
  return undefined;
}

/** Where two pieces of lines cross, their ends left out. */
function meeting(p: Point, q: Point, r: Point, s: Point): Point | undefined {
  const [ax, ay, bx, by] = [q.x - p.x, q.y - p.y, s.x - r.x, s.y - r.y];
  const across = ax * by - ay * bx;
  if (across === 0) return undefined;
  const t = ((r.x - p.x) * by - (r.y - p.y) * bx) / across;
  const u = ((r.x - p.x) * ay - (r.y - p.y) * ax) / across;
  const within = (v: number) => v > 1e-9 && v < 1 - 1e-9;
  return within(t) && within(u) ? { x: p.x + t * ax, y: p.y + t * ay } : undefined;
}

/**
 * A thing whose outline is all that is drawn, holes included.
 *
 * @param lines mm, y down
 * @throws OutlineError where a line is open or crosses itself, with the figure, or nothing is drawn
 */
export function thingOf(lines: readonly Polyline[]): Thing {
  if (lines.length > MOST_LINES)
    throw new OutlineError(`${lines.length.toLocaleString('en-GB')} lines are drawn there; an outline has at most ${MOST_LINES.toLocaleString('en-GB')}.`); // prettier-ignore
  const rings = joined(lines);
  const box = boxAround(rings.map(({ points }) => points));
  if (!box || box.width <= 0 || box.height <= 0) throw new OutlineError('Nothing is drawn there that could be an outline.');
  const shown = ({ x, y }: Point) => `${(x - box.x).toFixed(1)} × ${(y - box.y).toFixed(1)} mm from its top left`;
  for (const { points, closed } of rings) {
    if (!closed)
      throw new OutlineError(`An outline is open at ${shown(points[0]!)}: its ends lie ${far(points[0]!, points.at(-1)!).toFixed(1)} mm apart. Close it, and take it again.`); // prettier-ignore
    const at = crossing(points);
    if (at) throw new OutlineError(`An outline crosses itself at ${shown(at)}. Mend it, and take it again.`);
  }
  // Holes run the other way round, and what is drawn twice is there once.
  const path = areaOf(rings.map(({ points }) => points)).flatMap((points) =>
    polylinePath({ points: points.map(({ x, y }) => ({ x: x - box.x, y: y - box.y })), closed: true })
  );
  const round = (mm: number) => Math.round(mm * 1000) / 1000;
  return {
    widthMm: round(box.width),
    heightMm: round(box.height),
    outline: { kind: 'path', data: pathData(path, 2) }
  };
}
