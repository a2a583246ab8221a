import type { Tool } from '../artwork/roles';
import type { Point } from '../geometry/matrix';
import type { Knife, KnifeChoice } from '../media/knife';
import type { CutLine } from './order';

/** How a cutter's head is led so that the blade's tip follows the lines. In the cutter's mm, y up. */

/** From where the head is lowered to where it is lifted. */
export interface Stroke {
  /** Which line of those that were asked for. */
  line: number;
  tool: Tool;
  points: Point[];
}

/** A drag knife turns where its line does by more than this, degrees; less it takes by itself. */
const LEAST_TURN = 2;
/** Steps of the arc on which its axis goes round a corner. */
const STEP_DEGREES = 10;
const SHORT_MM = 1e-6;

/**
 * The strokes of the head. The tip of a drag knife trails its axis by the offset: the axis is led round each corner on an arc
 * about it (so that the tip stands and turns), and set down before a line's start the way that the tip lies from the line
 * before. A tangential knife and wheels are lifted at corners and turned. Lines are cut in as many passes as are asked for.
 *
 * @param heading which way a drag knife's tip trails at first, degrees; it is left by what it cut last
 */
export function strokesOf(lines: readonly CutLine[], knives: KnifeChoice, heading = 0): Stroke[] {
  const strokes: Stroke[] = [];
  let angle = (heading * Math.PI) / 180;
  lines.forEach((cut, line) => {
    const knife = knives[cut.tool];
    for (const part of partsOf(passed(cut, knife), knife)) {
      if (knife.blade !== 'drag knife' || knife.offset === 0) {
        strokes.push({ line, tool: cut.tool, points: part });
        continue;
      }
      const led = ledRound(part, knife.offset, angle);
      angle = led.angle;
      strokes.push({ line, tool: cut.tool, points: led.points });
    }
  });
  return strokes;
}

/**
 * The strokes of lines, and before the first line of each tool that is a drag knife one in the waste: its tip trails as nobody
 * knows, whether it is a blade of its own or the one that was used for something else before.
 *
 * @param turn where that stroke is made; none where there is no room for it
 * @returns strokes in their order; those in the waste belong to line −1
 */
export function turnedStrokes(lines: readonly CutLine[], knives: KnifeChoice, turn: readonly Point[] | undefined): Stroke[] {
  const strokes: Stroke[] = [];
  for (let from = 0; from < lines.length;) {
    const { tool } = lines[from]!;
    let to = from + 1;
    while (lines[to]?.tool === tool) to++;
    const { blade, offset } = knives[tool];
    const [start, end] = turn ?? [];
    const isTurned = start && end && blade === 'drag knife' && offset > 0;
    if (isTurned) strokes.push({ line: -1, tool, points: [start, end] });
    const heading = isTurned ? (Math.atan2(end.y - start.y, end.x - start.x) * 180) / Math.PI : 0;
    for (const stroke of strokesOf(lines.slice(from, to), knives, heading)) strokes.push({ ...stroke, line: stroke.line + from });
    from = to;
  }
  return strokes;
}

/** A line as it is gone along: a closed one past its start by the overcut, and all of it once a pass. */
function passed({ points, closed }: CutLine, { overcut, passes }: Knife): Point[] {
  const way = points.filter((p, i) => i === 0 || apart(p, points[i - 1]!) > SHORT_MM);
  const first = way[0]!;
  if (!closed || way.length < 2)
    return Array.from({ length: passes }, (_, pass) =>
      (pass % 2 === 0 ? way : way.toReversed()).slice(pass === 0 ? 0 : 1)
    ).flat();
  const round = apart(first, way.at(-1)!) > SHORT_MM ? [...way.slice(1), first] : way.slice(1);
  return [first, ...Array.from({ length: passes }, () => round).flat(), ...along([first, ...round], overcut)];
}

/** The places of a line after its start, as far as a length goes; round and round where it is longer than the line. */
function along(round: readonly Point[], length: number): Point[] {
  const out: Point[] = [];
  let left = length;
  for (let i = 1; left > SHORT_MM && i < 2 * round.length; i++) {
    const at = ((i - 1) % (round.length - 1)) + 1;
    const [from, to] = [round[at - 1]!, round[at]!];
    const span = apart(from, to);
    const t = Math.min(1, left / span);
    out.push({ x: from.x + t * (to.x - from.x), y: from.y + t * (to.y - from.y) });
    left -= span;
  }
  return out;
}

/** A way in parts, divided where it turns by more than the knife is turned in the material. */
function partsOf(way: readonly Point[], { blade, liftAngle }: Knife): Point[][] {
  // A drag knife turns about its tip in the material; a pen has no direction.
  const isLifted = blade !== 'drag knife' && blade !== 'pen' && liftAngle < 180;
  const parts: Point[][] = [];
  let part: Point[] = [];
  way.forEach((p, i) => {
    part.push(p);
    const [before, after] = [way[i - 1], way[i + 1]];
    if (!before || !after || !isLifted || Math.abs(turnOf(before, p, after)) * (180 / Math.PI) < liftAngle) return;
    parts.push(part);
    part = [p];
  });
  if (part.length > 1) parts.push(part);
  return parts;
}

/** Where the axis goes so that the tip goes along a way, and which way the tip then trails. */
function ledRound(way: readonly Point[], offset: number, from: number): { points: Point[]; angle: number } {
  const points: Point[] = [];
  let angle = from;
  for (let i = 0; i + 1 < way.length; i++) {
    const [p, q] = [way[i]!, way[i + 1]!];
    const to = Math.atan2(q.y - p.y, q.x - p.x);
    const turn = wrapped(to - angle);
    if (i === 0) points.push(ahead(p, angle, offset));
    if (i === 0 || Math.abs(turn) * (180 / Math.PI) > LEAST_TURN) {
      const steps = Math.max(1, Math.ceil((Math.abs(turn) * (180 / Math.PI)) / STEP_DEGREES));
      for (let step = 1; step <= steps; step++) points.push(ahead(p, angle + (turn * step) / steps, offset));
    }
    angle = to;
    points.push(ahead(q, angle, offset));
  }
  return { points, angle };
}

const apart = (p: Point, q: Point): number => Math.hypot(p.x - q.x, p.y - q.y);

const ahead = (p: Point, angle: number, by: number): Point => ({ x: p.x + by * Math.cos(angle), y: p.y + by * Math.sin(angle) });

/** An angle between −π and π. */
const wrapped = (angle: number): number => angle - 2 * Math.PI * Math.round(angle / (2 * Math.PI));

/** How much a way turns at a place, radians, to the left. */
const turnOf = (before: Point, p: Point, after: Point): number =>
  wrapped(Math.atan2(after.y - p.y, after.x - p.x) - Math.atan2(p.y - before.y, p.x - before.x));

/**
 * The way of a drag knife's tip, pulled by its axis as a trailing wheel is (a tractrix).
 *
 * @param heading which way it trails at first, degrees
 * @returns by stroke the tip's way; `heading` afterwards
 */
export function tipWays(
  strokes: readonly (readonly Point[])[],
  offset: number,
  heading = 0
): { ways: Point[][]; heading: number } {
  let angle = (heading * Math.PI) / 180;
  const ways = strokes.map((points) => {
    const start = points[0]!;
    let tip = ahead(start, angle + Math.PI, offset);
    const way = [tip];
    points.forEach((to, i) => {
      const from = points[i - 1];
      if (!from) return;
      const steps = Math.max(1, Math.ceil(apart(from, to) / Math.max(0.02, offset / 8)));
      for (let step = 1; step <= steps; step++) {
        const axis = { x: from.x + ((to.x - from.x) * step) / steps, y: from.y + ((to.y - from.y) * step) / steps };
        angle = Math.atan2(axis.y - tip.y, axis.x - tip.x);
        tip = ahead(axis, angle + Math.PI, offset);
        way.push(tip);
      }
    });
    return way;
  });
  return { ways, heading: (angle * 180) / Math.PI };
}
