import type { Stock } from '$core/layout/placement';
import { Problem } from '../platform/problem';
import type { Docket } from '../dockets/dockets';
import type { Run } from './run';

/** What runs may and may not, from what is given alone. */

const PRIORITY = { high: 0, normal: 1, low: 2 };

/** @throws Problem where a run can no longer be changed */
export function mustBeOpen({ state }: Pick<Run, 'state'>): void {
  if (state === 'ripping') throw new Problem(409, 'The run is being RIPped. Cancel that first.');
  if (state === 'printing') throw new Problem(409, 'The run is being printed. Wait for it, or cancel the print.');
  if (state === 'printed') throw new Problem(409, 'The run has been printed; it can be printed again as it is.');
}

/** Plates for a narrower roll or smaller sheet print on a larger one as they are. */
export const fitsOn = (small: Stock, large: Stock): boolean =>
  small.kind === large.kind &&
  small.width <= large.width + 0.5 &&
  (small.kind === 'roll' || large.kind === 'roll' || small.height <= large.height + 0.5);

/** By priority, then by the day that it is due. */
export function isMoreUrgent(p: Pick<Docket, 'priority' | 'dueOn'>, q: Pick<Docket, 'priority' | 'dueOn'>): boolean {
  const byPriority = PRIORITY[p.priority] - PRIORITY[q.priority];
  if (byPriority !== 0) return byPriority < 0;
  return p.dueOn !== '' && (q.dueOn === '' || p.dueOn < q.dueOn);
}
