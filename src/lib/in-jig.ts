import { z } from 'zod';
import { ANCHORS, EDGES, POCKET_SIZES, SIDES, type PocketRule } from '$core/layout/placement';
import { DEFAULT_POCKETS } from '$core/layout/in-pockets';
import type { RunRule } from './run-rule';

/** A docket's things lie in a jig: which one, and how its artwork lies in their places. */

/** How pieces lie in pockets, whichever they are. */
export const InPocket = z.object({
  anchor: z.enum(ANCHORS),
  marginMm: z.number({ error: 'The margin in a pocket must be a figure.' }).min(0, 'The margin in a pocket must not be below 0.').max(500, 'The margin in a pocket must be at most 500 mm.'),
  turn: z.union([z.literal(0), z.literal(90), z.literal(180), z.literal(270)]),
  edge: z.enum(EDGES),
  size: z.enum(POCKET_SIZES).default('own'),
  side: z.enum(SIDES).default('front')
}); // prettier-ignore
export type InPocket = z.infer<typeof InPocket>;

export const InJig = z.object({ id: z.int().min(1), lies: InPocket });
export type InJig = z.infer<typeof InJig>;

export const USUAL_IN_POCKET: InPocket = InPocket.parse(DEFAULT_POCKETS);

/** The jig of a run, and how pieces lie there; nothing where it is placed on the sheet. */
export const jigOfRun = ({ jig, pockets }: Pick<RunRule, 'jig' | 'pockets'>): InJig | null =>
  jig === null ? null : { id: jig, lies: InPocket.parse(pockets) };

/** A lane's rule for a run of what lies in a jig. */
export function inJig(rule: RunRule, jig: InJig | null): RunRule {
  if (!jig) return { ...rule, jig: null };
  const pockets: PocketRule = { ...rule.pockets, ...jig.lies, touched: [] };
  return { ...rule, jig: jig.id, pockets };
}

/** Whether two lie in the same jig in the same way, so that they can be in one load. */
export const liesAlike = (p: InJig | null, q: InJig | null): boolean =>
  JSON.stringify(p && InJig.parse(p)) === JSON.stringify(q && InJig.parse(q));
