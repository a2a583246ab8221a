import { LEAST_MARKS } from '$core/cutting/registration';
import type { PlacedCopy } from '$core/layout/placement';
import { endOfMark, marksTo } from '$core/marks/registration';
import type { FrozenRun } from '../production/frozen-run';

/** What of a print that broke off is of use, and what is to be printed once more. */
export interface CameInPart {
  /** How far along the run it is of use, mm. */
  toMm: number;
  /** How far it was printed. */
  printedMm: number;
  whole: PlacedCopy[];
  missing: PlacedCopy[];
}

/** Whether all of a copy lies before a place along the run. */
export const isWholeBy = ({ y, height }: PlacedCopy, toMm: number): boolean => y + height <= toMm;

/**
 * Where it will be cut it is of use no farther than its marks go: beyond the last of them nothing tells how it lies.
 *
 * @param copies of the run
 * @param printedMm from the start of the run
 * @returns nothing where no copy came out whole, or all did
 */
export function cameInPart(
  { plan: { marks }, cuts }: { plan: Pick<FrozenRun['plan'], 'marks'>; cuts: readonly unknown[] },
  copies: readonly PlacedCopy[],
  printedMm: number
): CameInPart | undefined {
  const out = marksTo(marks, printedMm);
  const markedMm = out.length < LEAST_MARKS ? 0 : Math.max(...out.map(endOfMark));
  const toMm = cuts.length === 0 ? printedMm : markedMm;
  const whole = copies.filter((copy) => isWholeBy(copy, toMm));
  const missing = copies.filter((copy) => !isWholeBy(copy, toMm));
  return whole.length === 0 || missing.length === 0 ? undefined : { toMm, printedMm, whole, missing };
}
