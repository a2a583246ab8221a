import type { ChartKind } from '$core/charts/patches';
import type { Conditions } from '../conditions/conditions';
import { digest, digestOnce } from '../platform/digest';
import type { FrozenRun } from '../production/frozen-run';

/** What charts are printed through: what is read of them tells of nothing else. */
export type Through = Pick<FrozenRun, 'curves' | 'mixture'>;

/** Charts that show what a condition prints, with all that brings it back. */
const AS_IT_PRINTS: readonly ChartKind[] = ['colour', 'neighbours', 'baseline', 'compare', 'verify'];

const straight = (limit: number): number[] => Array.from({ length: 256 }, (_, v) => (v / 255) * limit);

/** What a chart of a kind is printed through now. @throws Problem while the condition's first profile is being made */
export function throughNow(conditions: Conditions, conditionId: number, kind: ChartKind): Through {
  if (kind === 'limits') return { curves: [1, 1, 1, 1].map(straight) };
  if (kind === 'linear')
    return { curves: (conditions.result(conditionId, 'limits')?.channels ?? []).map(({ chosen }) => straight(chosen)) };
  if (!AS_IT_PRINTS.includes(kind)) return { curves: conditions.curves(conditionId) };
  const { curves, mixture } = conditions.colour(conditionId);
  return { curves, ...(mixture && { mixture }) };
}

/** Tells one way of printing from another. */
export const throughOf = ({ curves, mixture }: Through): string =>
  mixture ? digest([digestOnce(curves), mixture]) : digestOnce(curves);
