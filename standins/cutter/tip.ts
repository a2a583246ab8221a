import { tipWays } from '$core/cutting/blade';
import type { Point } from '$core/geometry/matrix';

/** How far the tips of this cutter's blades trail behind its head, by pen: its crease wheel stands under it. */
const OFFSETS_MM: Record<number, number> = { 1: 0.25, 3: 0.25, 4: 0.25 };
/** Which way a blade trails that was just put in, degrees: nobody knows. */
const FIRST_HEADING = 137;

/** What the tips of the blades went through, when the head was led so. @param pens of each line */
export function bladeWays(lines: readonly (readonly Point[])[], pens: readonly number[]): Point[][] {
  let heading = FIRST_HEADING;
  return lines.map((line, i) => {
    const offset = OFFSETS_MM[pens[i] ?? 0] ?? 0;
    if (offset === 0) return [...line];
    const { ways, heading: after } = tipWays([line], offset, heading);
    heading = after;
    return thinned(ways[0]!);
  });
}

/** Without the places that lie on the straight way from the one that was kept last. */
function thinned(way: readonly Point[]): Point[] {
  const kept: Point[] = [];
  way.forEach((p, i) => {
    const [last, next] = [kept.at(-1), way[i + 1]];
    if (!last || !next || Math.hypot(p.x - last.x, p.y - last.y) > LONGEST_MM) kept.push(p);
    else {
      const turn = Math.atan2(next.y - p.y, next.x - p.x) - Math.atan2(p.y - last.y, p.x - last.x);
      if (Math.abs(turn - 2 * Math.PI * Math.round(turn / (2 * Math.PI))) > LEAST_TURN) kept.push(p);
    }
  });
  return kept;
}

const LONGEST_MM = 2;
/** Radians. */
const LEAST_TURN = 0.03;
