import type { Point } from '../geometry/matrix';
import type { KnifeChoice } from '../media/knife';
import type { Stroke } from './blade';

/** How long a cutter takes: its head speeds up, slows down before corners, and is lifted from line to line. */

/** How a cutter moves, as it says of itself. */
export interface Moves {
  /** mm/s². */
  acceleration: number;
  /** What its speed may change by at once, as at a corner, mm/s. */
  jump: number;
  /** Lifted, mm/s. */
  travel: number;
  /** To lift and to lower, both together, s. */
  lift: number;
  /** To look at a mark, s. */
  look: number;
}

/** What is supposed of a cutter that says nothing. */
export const USUAL_MOVES: Moves = { acceleration: 5000, jump: 30, travel: 600, lift: 0.2, look: 0.6 };

const MM_S_A_CM_S = 10;

/** @returns seconds, from the origin through all strokes */
export function cuttingSeconds(strokes: readonly Stroke[], knives: KnifeChoice, moves: Moves): number {
  let at: Point = { x: 0, y: 0 };
  let seconds = 0;
  for (const { tool, points } of strokes) {
    const [first] = points;
    if (!first) continue;
    seconds += waySeconds([at, first], moves.travel, moves) + moves.lift;
    seconds += waySeconds(points, knives[tool].speed * MM_S_A_CM_S, moves);
    at = points[points.length - 1]!;
  }
  return seconds;
}

/**
 * Along a way from rest to rest: as fast as it may be passed at each corner, and as can be braked before the next ones.
 *
 * @param speed the most, mm/s
 */
export function waySeconds(points: readonly Point[], speed: number, { acceleration, jump }: Moves): number {
  const lengths: number[] = [];
  const turns: Point[] = [];
  for (let i = 1; i < points.length; i++) {
    const [p, q] = [points[i - 1]!, points[i]!];
    const length = Math.hypot(q.x - p.x, q.y - p.y);
    if (length === 0) continue;
    lengths.push(length);
    turns.push({ x: (q.x - p.x) / length, y: (q.y - p.y) / length });
  }
  const n = lengths.length;
  // Speeds at the places between, squared; at rest before and after.
  const at = new Float64Array(n + 1);
  for (let i = 1; i < n; i++) {
    const change = Math.hypot(turns[i]!.x - turns[i - 1]!.x, turns[i]!.y - turns[i - 1]!.y);
    at[i] = Math.min(speed, change > 0 ? jump / change : Infinity) ** 2;
  }
  for (let i = n - 1; i > 0; i--) at[i] = Math.min(at[i]!, at[i + 1]! + 2 * acceleration * lengths[i]!);
  for (let i = 1; i < n; i++) at[i] = Math.min(at[i]!, at[i - 1]! + 2 * acceleration * lengths[i - 1]!);
  let seconds = 0;
  for (let i = 0; i < n; i++) {
    const [from, to] = [Math.sqrt(at[i]!), Math.sqrt(at[i + 1]!)];
    const top = Math.min(speed, Math.sqrt((at[i]! + at[i + 1]! + 2 * acceleration * lengths[i]!) / 2));
    const changing = (2 * top ** 2 - at[i]! - at[i + 1]!) / (2 * acceleration);
    seconds += (2 * top - from - to) / acceleration + Math.max(0, lengths[i]! - changing) / top;
  }
  return seconds;
}
