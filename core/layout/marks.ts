import type { Rect } from '../geometry/path';
import type { Mark } from '../rip/plan';

export interface MarkRule {
  /** mm of the disc, and of the white ring around it that the camera needs. */
  diameter: number;
  quiet: number;
  /** The farthest that two marks of one side stand from each other along the roll. */
  pitch: number;
}

export const DEFAULT_MARKS: MarkRule = { diameter: 6, quiet: 3, pitch: 500 };

/** Room that marks take on each side of what they surround, the ring included. */
export const markRoom = (rule: MarkRule): number => rule.diameter + 2 * rule.quiet;

/**
 * Registration marks around the pieces to be cut: one near each corner and more along long sides, left and right in
 * pairs. One of the first pair is moved in, so that a sheet that lies upside down is told from one that does not.
 */
export function registrationMarks(pieces: readonly Rect[], rule: MarkRule): Mark[] {
  if (pieces.length === 0) return [];
  const x0 = Math.min(...pieces.map((p) => p.x)) - rule.quiet - rule.diameter / 2;
  const x1 = Math.max(...pieces.map((p) => p.x + p.width)) + rule.quiet + rule.diameter / 2;
  const y0 = Math.min(...pieces.map((p) => p.y)) - rule.quiet - rule.diameter / 2;
  const y1 = Math.max(...pieces.map((p) => p.y + p.height)) + rule.quiet + rule.diameter / 2;
  const steps = Math.max(1, Math.ceil((y1 - y0) / rule.pitch));
  const marks: Mark[] = [];
  for (let i = 0; i <= steps; i++) {
    const y = y0 + ((y1 - y0) * i) / steps;
    marks.push({ x: x0, y, diameter: rule.diameter }, { x: x1, y, diameter: rule.diameter });
  }
  // The telling mark: an extra one beside the first.
  marks.push({ x: x0 + Math.min(2.5 * rule.diameter + rule.quiet, (x1 - x0) / 3), y: y0, diameter: rule.diameter });
  return marks;
}
