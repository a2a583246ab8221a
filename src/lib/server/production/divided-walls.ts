import { plannedWall } from '$lib/panels';
import type { Condition } from '../conditions/condition';
import type { Docket } from '../dockets/dockets';
import { digest } from '../platform/digest';
import type { RunDocketRow } from './run';

/** Walls in runs: what is printed must meet what was printed of it before. */

const plannedOf = ({ choices }: Docket, condition: Condition) =>
  choices.wall ? plannedWall({ ...choices, wall: choices.wall }, condition) : undefined;

/** Tells whether a docket's wall is divided otherwise since; nothing for one that is no wall. */
export function divisionOf(docket: Docket, condition: Condition): string | null {
  const planned = plannedOf(docket, condition);
  if (!planned) return null;
  const { size, columns, rows, overlapMm } = planned;
  return digest([size, columns, rows, overlapMm]);
}

/** Whether panels that a run has are others now. What was kept before divisions were is taken to be the same. */
export const isDividedOtherwise = (docket: Docket, condition: Condition, { division }: Pick<RunDocketRow, 'division'>): boolean =>
  division !== null && division !== divisionOf(docket, condition);

/** Why a run's walls cannot be printed as they lie in it; nothing where they can. */
export function wallHindrance(
  dockets: readonly Docket[],
  entries: readonly Pick<RunDocketRow, 'pieces' | 'division'>[],
  condition: Condition
): string | null {
  for (const [i, docket] of dockets.entries()) {
    const fault = plannedOf(docket, condition)?.faults[0];
    if (fault) return `${docket.name} is in no panels: ${fault.sentence}`;
    const entry = entries[i]!;
    if (entry.pieces !== null && isDividedOtherwise(docket, condition, entry))
      return `${docket.name} is divided otherwise since its panels were put into several runs: they would not meet. Take it out of these runs and lay it out anew, or take the change of its wall back.`;
  }
  return null;
}
