import type { Point } from '$core/geometry/matrix';

/**
 * How the head of this cutter moves: a motor pulls the roll and another the head, each with a strength of its own. Reckoned in
 * small steps of time.
 */

/** mm/s², along the roll and across. */
const STRENGTH = { x: 4600, y: 5600 };
/** What the speed of either may change by at once, mm/s. */
const JUMP = 30;
const STEP_S = 0.0002;

export const TRAVEL_MM_S = 600;
export const LIFT_S = 0.2;
/** To look at a mark. */
export const LOOK_S = 0.5;
/** What it says of itself. */
export const MOVES = { acceleration: 5000, jump: JUMP, travel: TRAVEL_MM_S, lift: LIFT_S, look: LOOK_S };

/** Seconds from rest to rest along a way, at most so fast (mm/s). */
export function secondsAlong(points: readonly Point[], speed: number): number {
  const parts = points.slice(1).flatMap((q, i) => {
    const p = points[i]!;
    const length = Math.hypot(q.x - p.x, q.y - p.y);
    if (length === 0) return [];
    const [ux, uy] = [(q.x - p.x) / length, (q.y - p.y) / length];
    return [{ length, ux, uy, strength: Math.min(STRENGTH.x / Math.max(1e-9, Math.abs(ux)), STRENGTH.y / Math.max(1e-9, Math.abs(uy))) }]; // prettier-ignore
  });
  // How fast each part may be left: the weaker motor says.
  const leave = parts.map(({ ux, uy }, i) => {
    const next = parts[i + 1];
    if (!next) return 0;
    return Math.min(speed, JUMP / Math.max(1e-9, Math.hypot(next.ux - ux, next.uy - uy)));
  });
  for (let i = parts.length - 2; i >= 0; i--) {
    const next = parts[i + 1]!;
    leave[i] = Math.min(leave[i]!, Math.sqrt(leave[i + 1]! ** 2 + 2 * next.strength * next.length));
  }
  let [seconds, now] = [0, 0];
  parts.forEach(({ length, strength }, i) => {
    let left = length;
    while (left > 1e-9) {
      const brake = (now ** 2 - leave[i]! ** 2) / (2 * strength);
      const wanted = brake >= left ? Math.max(leave[i]!, now - strength * STEP_S) : Math.min(speed, now + strength * STEP_S);
      const mean = Math.max(1e-3, (now + wanted) / 2);
      const step = Math.min(STEP_S, left / mean);
      seconds += step;
      left -= mean * step;
      now += ((wanted - now) * step) / STEP_S;
    }
    now = Math.min(now, Math.max(leave[i]!, 0));
  });
  return seconds;
}
