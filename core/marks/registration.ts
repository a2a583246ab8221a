import { z } from 'zod';
import type { Box } from '../geometry/box';
import { MARK_SHAPES, type Mark } from './print-list';

/** What the cutter's camera looks for. */

export const MarkRule = z.object({
  shape: z.enum(MARK_SHAPES),
  /** mm of the mark, and of the white ring around it that the camera needs. */
  diameter: z.number().min(2, 'Marks are 2 to 20 mm.').max(20, 'Marks are 2 to 20 mm.'),
  quiet: z.number().min(1, 'The white around marks is 1 to 20 mm.').max(20, 'The white around marks is 1 to 20 mm.'),
  /** What the code is that stands beside them; a Data Matrix where it is not said. */
  code: z.enum(['datamatrix', 'qrcode']).optional(),
  /** The farthest that two marks of one side stand from each other along the roll. */
  pitch: z.number().min(100, 'Marks stand 100 to 5000 mm apart.').max(5000, 'Marks stand 100 to 5000 mm apart.')
});
export type MarkRule = z.infer<typeof MarkRule>;

export const DEFAULT_MARKS: MarkRule = { shape: 'disc', diameter: 6, quiet: 3, pitch: 500 };

/** Rows of marks stand so many marks apart at least. */
const ROWS_APART = 4;

/** Room that marks take on each side of what they surround, the ring included. */
export const markRoom = (rule: MarkRule): number => rule.diameter + 2 * rule.quiet;

/** Marks of which all lies before a place along the run, mm. */
export const marksTo = <M extends Pick<Mark, 'y' | 'diameter'>>(marks: readonly M[], toMm: number): M[] =>
  marks.filter((mark) => endOfMark(mark) <= toMm);

/** Where a mark ends along the run, mm. */
export const endOfMark = ({ y, diameter }: Pick<Mark, 'y' | 'diameter'>): number => y + diameter / 2;

/**
 * Registration marks around the pieces to be cut: one near each corner and more along long sides, left and right in
 * pairs. Each corner has another beside it, at the left towards the middle and at the right along the side: each of these
 * tells a sheet that lies upside down from one that does not, and confirms its corner, so that any two marks may be lost, but for prints of
 * a centimetre or two.
 */
export function registrationMarks(pieces: readonly Box[], rule: MarkRule): Mark[] {
  if (pieces.length === 0) return [];
  const [least, most] = [
    (list: number[]) => list.reduce((a, b) => Math.min(a, b)),
    (list: number[]) => list.reduce((a, b) => Math.max(a, b))
  ];
  const { diameter, shape } = rule;
  const x0 = least(pieces.map((p) => p.x)) - rule.quiet - rule.diameter / 2;
  const x1 = most(pieces.map((p) => p.x + p.width)) + rule.quiet + rule.diameter / 2;
  const y0 = least(pieces.map((p) => p.y)) - rule.quiet - rule.diameter / 2;
  const y1 = most(pieces.map((p) => p.y + p.height)) + rule.quiet + rule.diameter / 2;
  // Three rows at least where there is room: each mark is confirmed by others then, two of them lost or not.
  const rows = y1 - y0 >= 2 * ROWS_APART * diameter ? 2 : 1;
  const steps = Math.max(rows, Math.ceil((y1 - y0) / rule.pitch));
  const marks: Mark[] = [];
  for (let i = 0; i <= steps; i++) {
    const y = y0 + ((y1 - y0) * i) / steps;
    marks.push({ x: x0, y, diameter, shape }, { x: x1, y, diameter, shape });
  }
  // Around what is smaller than a few marks they would run into each other: one in the middle is all that there is room for.
  const beside = (long: number) =>
    long / 3 < diameter + rule.quiet / 2 ? long / 2 : Math.min(2.5 * diameter + rule.quiet, long / 3);
  const [x, y] = [beside(x1 - x0), beside(y1 - y0)];
  for (const [tx, ty] of [
    [x0 + x, y0],
    [x0 + x, y1],
    [x1, y0 + y],
    [x1, y1 - y]
  ] as const)
    if (!marks.some((mark) => mark.x === tx && Math.abs(mark.y - ty) < 1e-6)) marks.push({ x: tx, y: ty, diameter, shape });
  return marks;
}
