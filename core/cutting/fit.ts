import type { Point } from '../geometry/matrix';
import { distanceToSegment, type Path } from '../geometry/path';
import { direction, fitCubics } from './bezier-fit';

/** A turn of more than this between two straight stretches is a corner, degrees. */
const CORNER_DEGREES = 28;

/**
 * A closed ring → straight pieces and Béziers with few nodes, within about `tolerance` of it; corners stay corners.
 *
 * @param grain the ring's own roughness: a stretch shorter than about two grains says nothing of its direction. For a ring
 *   traced from pixels a pixel; corners that the pixels cut off by less than that are made whole again
 */
export function fitRing(points: readonly Point[], tolerance: number, grain = 0): Path {
  const ring = grain > 0 ? smoothed(points) : spaced(points, tolerance / 5);
  if (ring.length < 3) return [];
  const { corners, sharpened } = grain > 0 ? tracedCorners(points, grain) : exactCorners(ring);
  const path: Path = [];
  const n = ring.length;
  const starts = corners.length > 0 ? corners : [0];
  const place = (index: number): Point => sharpened.get(index) ?? ring[index]!;
  path.push({ kind: 'move', to: place(starts[0]!) });
  const reach = Math.max(REACH * grain, 4 * tolerance);
  starts.forEach((from, i) => {
    const to = starts[(i + 1) % starts.length]!;
    const count = ((to - from + n) % n || n) + 1;
    const stretch: Point[] = [];
    // Points that the corner's making whole has left behind would bend the line back.
    const isBehind = (p: Point, end: number) => {
      const sharp = sharpened.get(end);
      return sharp !== undefined && Math.hypot(p.x - sharp.x, p.y - sharp.y) < 2.5 * grain;
    };
    for (let k = 0; k < count; k++) {
      const p = k === 0 ? place(from) : k === count - 1 ? place(to) : ring[(from + k) % n]!;
      if (k === 0 || k === count - 1 || (!isBehind(p, from) && !isBehind(p, to))) stretch.push(p);
    }
    addStretch(path, filled(stretch), tolerance, reach, corners.length === 0);
  });
  // The last line comes back to the start, and closing draws it.
  if (path.at(-1)?.kind === 'line') path.pop();
  path.push({ kind: 'close' });
  return path;
}

/** Rounds of evening out the fifth of a pixel that interpolation leaves; more would move tight curves. */
const ROUNDS = 3;

/** Every point halfway to the middle of its neighbours, a few times; corners are found before. */
function smoothed(points: readonly Point[]): Point[] {
  let ring = [...points];
  const n = ring.length;
  for (let round = 0; round < ROUNDS; round++) {
    ring = ring.map((p, i) => {
      const a = ring[(i + n - 1) % n]!;
      const b = ring[(i + 1) % n]!;
      return { x: p.x / 2 + (a.x + b.x) / 4, y: p.y / 2 + (a.y + b.y) / 4 };
    });
  }
  return ring;
}

/** Without points so near to the one before that their direction is all rounding. */
function spaced(points: readonly Point[], least: number): Point[] {
  const out: Point[] = [];
  const far = (p: Point, q: Point | undefined) => !q || Math.hypot(p.x - q.x, p.y - q.y) >= least;
  for (const p of points) if (far(p, out.at(-1))) out.push(p);
  while (out.length > 1 && !far(out[0]!, out.at(-1))) out.pop();
  return out;
}

/** Points between far ones, so that a curve is held to what lies between them too. */
function filled(stretch: readonly Point[]): Point[] {
  if (stretch.length < 3) return [...stretch];
  const spans = stretch.slice(1).map((q, i) => Math.hypot(q.x - stretch[i]!.x, q.y - stretch[i]!.y));
  const most = Math.max(1e-9, spans.reduce((sum, span) => sum + span, 0) / 32);
  return stretch.flatMap((p, i) => {
    const q = stretch[i + 1];
    const pieces = Math.ceil((spans[i] ?? 0) / most);
    if (!q || pieces < 2) return [p];
    return Array.from({ length: pieces }, (_, k) => ({
      x: p.x + ((q.x - p.x) * k) / pieces,
      y: p.y + ((q.y - p.y) * k) / pieces
    }));
  });
}

/** @param round the stretch is the whole ring, smooth also where it begins */
function addStretch(path: Path, stretch: readonly Point[], tolerance: number, reach: number, round: boolean): void {
  const first = stretch[0]!;
  const last = stretch[stretch.length - 1]!;
  if (!round && farthest(stretch, first, last) <= tolerance) {
    path.push({ kind: 'line', to: last });
    return;
  }
  let ends: [Point?, Point?] = [];
  if (round) {
    const ahead = direction(stretch, 0, stretch.length - 1, reach);
    const back = direction(stretch, stretch.length - 1, 0, reach);
    const length = Math.hypot(ahead.x - back.x, ahead.y - back.y) || 1;
    const through = { x: (ahead.x - back.x) / length, y: (ahead.y - back.y) / length };
    ends = [through, { x: -through.x, y: -through.y }];
  }
  for (const curve of fitCubics(stretch, tolerance, reach, ...ends)) path.push({ kind: 'curve', ...curve });
}

const farthest = (stretch: readonly Point[], a: Point, b: Point): number =>
  stretch.reduce((most, p) => Math.max(most, distanceToSegment(a, b, p)), 0);

interface Corners {
  /** Indices into the ring, rising. */
  corners: number[];
  /** Where a corner is that pixels have cut off. */
  sharpened: Map<number, Point>;
}

/** A stretch this many times as long as the three before and after it is a straight side between arcs. */
const SIDE = 6;

/** Corners of a ring of exact points: where it turns at once, and where a straight side begins and ends. */
function exactCorners(ring: readonly Point[]): Corners {
  const n = ring.length;
  const at = (i: number) => ring[(i + n) % n]!;
  const length = (i: number) => Math.hypot(at(i + 1).x - at(i).x, at(i + 1).y - at(i).y);
  const isSide = (i: number) => length(i) > SIDE * Math.max(...[-3, -2, -1, 1, 2, 3].map((step) => length(i + step)));
  const corners = [...ring.keys()].filter(
    (i) => turnBetween(heading(at(i - 1), at(i)), heading(at(i), at(i + 1))) > CORNER_DEGREES || isSide(i) || isSide(i - 1)
  );
  return { corners, sharpened: new Map() };
}

/** Of a traced ring, how much around a point tells nothing of its directions, and how much then does; in grains. */
const BLIND = 1.5;
const WINDOW = 6;
/** Directions in a curve are taken over this many grains: over fewer, the pixels' roughness would turn them. */
const REACH = 16;
/** A window is straight when nothing in it departs by more than this, grains. */
const STRAIGHT = 0.3;

/**
 * Corners of a ring traced from pixels: straight on both sides, and turning between. Around small circles the windows are
 * bent, so that they have no corners.
 */
function tracedCorners(ring: readonly Point[], grain: number): Corners {
  const n = ring.length;
  const found: { index: number; turn: number; corner: Point | undefined; gap: number; at: number }[] = [];
  let at = 0;
  for (let i = 0; i < n; i++) {
    const here = ring[i]!;
    if (i > 0) at += Math.hypot(here.x - ring[i - 1]!.x, here.y - ring[i - 1]!.y);
    const back = sideOf(ring, i, -1, grain);
    const ahead = sideOf(ring, i, 1, grain);
    if (!back || !ahead) continue;
    const turn = turnBetween(heading(back.to, back.from), heading(ahead.from, ahead.to));
    if (turn <= CORNER_DEGREES || !back.straight || !ahead.straight) continue;
    const meeting = meet(back.to, back.from, ahead.from, ahead.to);
    // Pixels cut a corner off by about half a pixel across; what is farther from its meeting is a tight curve.
    const inner = ((180 - turn) * Math.PI) / 360;
    const gap = meeting ? Math.hypot(meeting.x - here.x, meeting.y - here.y) : Infinity;
    const near = gap < (0.4 + 0.5 / Math.tan(inner)) * grain;
    found.push({ index: i, turn, corner: near ? meeting : undefined, gap, at });
  }
  // Of neighbours that see the same corner the one that sees most of it is kept, and of such the one nearest to it.
  const reach = (BLIND + WINDOW / 2) * grain;
  const around = at;
  const apart = (p: number, q: number) => Math.min(Math.abs(p - q), around - Math.abs(p - q));
  const sorted = found.sort((p, q) => Math.round(q.turn / 5) - Math.round(p.turn / 5) || p.gap - q.gap);
  const kept: typeof found = [];
  for (const one of sorted) if (kept.every((other) => apart(other.at, one.at) > reach)) kept.push(one);
  return {
    corners: kept.map(({ index }) => index).sort((p, q) => p - q),
    sharpened: new Map(kept.flatMap(({ index, corner }) => (corner ? [[index, corner] as const] : [])))
  };
}

/** The line along one side of a point, between the means of the near and the far half of its window. */
function sideOf(ring: readonly Point[], index: number, step: 1 | -1, grain: number) {
  const n = ring.length;
  const window: Point[] = [];
  let gone = 0;
  let before = ring[index]!;
  for (let k = 1; k < n && gone < (BLIND + WINDOW) * grain; k++) {
    const p = ring[(index + step * k + n * k) % n]!;
    gone += Math.hypot(p.x - before.x, p.y - before.y);
    before = p;
    if (gone >= BLIND * grain) window.push(p);
  }
  if (window.length < 4) return undefined;
  const half = window.length >> 1;
  const from = mean(window.slice(0, half));
  const to = mean(window.slice(half));
  const dx = to.x - from.x;
  const dy = to.y - from.y;
  const span = Math.hypot(dx, dy);
  if (span < 1e-9) return undefined;
  const straight = window.every((p) => Math.abs((p.x - from.x) * dy - (p.y - from.y) * dx) / span < STRAIGHT * grain);
  return { from, to, straight };
}

const mean = (points: readonly Point[]): Point => ({
  x: points.reduce((sum, p) => sum + p.x, 0) / points.length,
  y: points.reduce((sum, p) => sum + p.y, 0) / points.length
});

const heading = (from: Point, to: Point) => Math.atan2(to.y - from.y, to.x - from.x);
const turnBetween = (a: number, b: number) => Math.abs(((((b - a) * 180) / Math.PI + 540) % 360) - 180);

/** Where the line through a, b meets the line through c, d. */
function meet(a: Point, b: Point, c: Point, d: Point): Point | undefined {
  const [rx, ry, sx, sy] = [b.x - a.x, b.y - a.y, d.x - c.x, d.y - c.y];
  const cross = rx * sy - ry * sx;
  if (Math.abs(cross) < 1e-12) return undefined;
  const t = ((c.x - a.x) * sy - (c.y - a.y) * sx) / cross;
  return { x: a.x + t * rx, y: a.y + t * ry };
}
