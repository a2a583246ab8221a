import { strokesOf, type Stroke } from '$core/cutting/blade';
import { writeHpgl } from '$core/cutting/hpgl';
import type { KnifeChoice } from '$core/cutting/knife';
import { lieAt, type Lie } from '$core/cutting/lie';
import { orderCuts, type CutLine } from '$core/cutting/order';
import { register, RegistrationError, type Registration } from '$core/cutting/registration';
import type { Point } from '$core/geometry/matrix';
import { flatten, type Path } from '$core/geometry/path';

/** Flat pieces depart from the curve by at most this, mm: below the step of the cutter. */
const FLATNESS_MM = 0.01;
/** Long straight lines are divided, so that a bowed print is followed along them, mm. */
const LONGEST_MM = 100;

/** A run's lines in the order that they are cut in. */
export function orderForCutting(cuts: readonly { path: Path; tool: CutLine['tool'] }[]): CutLine[] {
  const flat = cuts.flatMap((cut) => flatten(cut.path, FLATNESS_MM).map((line) => ({ ...line, tool: cut.tool })));
  // A cutter counts no line that goes nowhere.
  return orderCuts(flat.filter((line) => line.points.length > 1));
}

export interface Sighting {
  expected: Point[];
  seen: Point[];
  limit: number;
}

/** How a print lies, or the sentence that it is refused with. */
export function registerPrint({ expected, seen, limit }: Sighting): { fit: Registration } | { refused: string } {
  try {
    return { fit: register(expected, seen, limit) };
  } catch (error) {
    if (error instanceof RegistrationError) return { refused: error.message };
    throw error;
  }
}

export interface Leading {
  lines: CutLine[];
  lie: Lie;
  knives: KnifeChoice;
  /** How many of the lines are cut already. */
  from: number;
}

export interface Led {
  hpgl: string;
  /** By line how many strokes are made when it is cut, all before it counted, cut already or not. */
  ends: number[];
}

/** What a cutter is sent for a print that lies in it. */
export function leadKnife({ lines, lie, knives, from }: Leading): Led {
  const placed = lines.map((line): CutLine => ({ ...line, points: divided(line).map((p) => lieAt(lie, p)) }));
  const counts = strokesOf(placed, knives);
  const ends = placed.map(() => 0);
  for (const { line } of counts) ends[line] = ends[line]! + 1;
  for (let i = 1; i < ends.length; i++) ends[i] = ends[i]! + ends[i - 1]!;
  const strokes: Stroke[] = from === 0 ? counts : strokesOf(placed.slice(from), knives);
  return { hpgl: writeHpgl(strokes, knives), ends };
}

function divided({ points, closed }: CutLine): Point[] {
  return points.flatMap((p, i) => {
    const q = points[i + 1] ?? (closed ? points[0]! : p);
    const parts = Math.max(1, Math.ceil(Math.hypot(q.x - p.x, q.y - p.y) / LONGEST_MM));
    return Array.from({ length: parts }, (_, k) => ({ x: p.x + ((q.x - p.x) * k) / parts, y: p.y + ((q.y - p.y) * k) / parts }));
  });
}
