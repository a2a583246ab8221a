import { NO_INK, type InkUse } from '$core/inks/ink-prices';
import { inkCounted, runCosts, sharesOf, takenBy, type CountedInk, type Rates } from '$core/layout/run-costs';
import { isJig, type Stock } from '$core/layout/placement';
import { clipsOn, printedOf, type Printed } from '$core/layout/printed-parts';
import { Problem } from '../platform/problem';
import type { Condition } from '../conditions/condition';
import type { Docket } from '../dockets/dockets';
import type { Run } from './run';

/** What runs may and may not, from what is given alone. */

const PRIORITY = { high: 0, normal: 1, low: 2 };

/** @throws Problem where a run can no longer be changed */
export function mustBeOpen(run: Pick<Run, 'state' | 'times' | 'came'>): void {
  mustNotBeBusy(run);
  const { times, came } = run;
  if (came > 0)
    throw new Problem(
      409,
      `It came out ${came < times ? `${came} of ${times} times` : 'already'}. Print what is left, or leave it at that: tickets say then how many copies lie in no run.`
    );
}

/** @throws Problem where a run can no longer be RIPped */
export function mustNotBeBusy({ state }: Pick<Run, 'state'>): void {
  if (state === 'ripping') throw new Problem(409, 'The run is being RIPped. Cancel that first.');
  if (state === 'printing') throw new Problem(409, 'The run is being printed. Wait for it, or cancel the print.');
  if (state === 'printed') throw new Problem(409, 'The run has been printed; it can be printed again as it is.');
}

/** How often a run is to be printed still; once more where it came out as often as it is to. */
export const timesLeft = ({ times, came }: Pick<Run, 'times' | 'came'>): number => Math.max(1, times - came);

/** How often a run is printed without a person between: loads of a jig one by one, since each is laid in. */
export const timesByItself = (run: Pick<Run, 'times' | 'came' | 'stock'>): number => (isJig(run.stock) ? 1 : timesLeft(run));

/** A docket in a run's lane: its machine and media. The print mode is the lane's. */
export const isForLane = (
  own: Pick<Condition, 'machineId' | 'mediaId'> | undefined,
  lane: Pick<Condition, 'machineId' | 'mediaId'>
): boolean => own?.machineId === lane.machineId && own.mediaId === lane.mediaId;

/** Why a docket is not printed in a run any more: it was given another media meanwhile, or none. */
export function forOther(
  name: string,
  own: Pick<Condition, 'media' | 'machine'> | undefined,
  { media, machine }: Pick<Condition, 'media' | 'machine'>
): string {
  const now = own ? `is for ${own.media} on ${own.machine} by now` : 'has no media chosen any more';
  return `${name} ${now}, and this run prints on ${media} on ${machine}. Move it to its lane, or choose ${media} for it.`;
}

/** Plates for a narrower roll or smaller sheet print on a larger one as they are; those for a jig on that jig alone. */
export const fitsOn = (small: Stock, large: Stock): boolean =>
  small.kind === large.kind &&
  small.width <= large.width + 0.5 &&
  (small.kind === 'roll' || large.kind === 'roll' || (small.height <= large.height + 0.5 && placesOf(small) === placesOf(large)));

/** All of a jig that plates depend on: not its name, nor how high its things stand. */
const placesOf = ({ jig }: Extract<Stock, { kind: 'sheet' }>): string => JSON.stringify(jig && [jig.thing, jig.pockets]);

/** By priority, then by the day that it is due. */
export function isMoreUrgent(p: Pick<Docket, 'priority' | 'dueOn'>, q: Pick<Docket, 'priority' | 'dueOn'>): boolean {
  const byPriority = PRIORITY[p.priority] - PRIORITY[q.priority];
  if (byPriority !== 0) return byPriority < 0;
  return p.dueOn !== '' && (q.dueOn === '' || p.dueOn < q.dueOn);
}

/** What tells a print mode, and what it is called. */
export type ModeName = Pick<Condition['mode'], 'code' | 'name'>;

/** A docket in the run that it is laid out in. Lengths are mm. */
export interface InRun {
  runId: number;
  dockets: number;
  /** What of the run's length falls to this docket, by the area that its copies take. */
  lengthMm: number;
  ofMm: number;
  wasteShare: number;
  /** What of its picture is printed there, in all prints of the run. */
  printed: Printed[];
  /** Of a run on sheets, how many. */
  sheets: number | null;
  /** Its part of what all prints of the run cost; of ink as plates have it, nothing before there are some. */
  costs: { media: number; time: number; ink: InkUse | null };
  /** What it is printed on, and how. */
  on: Pick<Condition, 'machineId' | 'mediaId' | 'machine' | 'media'> & { mode: ModeName };
}

/**
 * What of a run falls to one of its dockets; none while nothing of it lies there.
 *
 * @param counted the ink of one print by its plates; none while they are not of what lies there
 */
export function shareOfRun(
  run: Pick<Run, 'id' | 'dockets' | 'laid' | 'layout' | 'rule' | 'stock' | 'times' | 'condition'>,
  docketId: number,
  rates: Rates,
  counted: CountedInk | null
): InRun | null {
  const pieces = new Map(run.laid.map((piece) => [piece.id, piece]));
  const taken = takenBy(run.layout, pieces, 1, () => NO_INK);
  const shares = sharesOf(counted?.byDocket ? inkCounted(taken, counted.byDocket, 1) : taken, counted?.all).get(docketId);
  const share = shares?.area;
  if (!share) return null;
  const own = new Map([...pieces].filter(([, { docket }]) => docket === String(docketId)));
  const printed = printedOf(run.layout.parts, own, clipsOn(run.stock, run.rule));
  const costs = runCosts(run.layout, (counted?.all.cost ?? 0) * rates.times, rates);
  const { machineId, mediaId, machine, media, mode } = run.condition;
  return {
    runId: run.id,
    dockets: run.dockets.length,
    lengthMm: run.layout.length * share,
    ofMm: run.layout.length,
    wasteShare: run.layout.wasteShare,
    printed: [...printed.values()].map((one) => ({ ...one, copies: one.copies * run.times })),
    sheets: run.stock.kind === 'sheet' ? run.layout.parts.length * run.times : null,
    costs: {
      media: costs.media * share,
      time: costs.time * share,
      ink: counted && { ml: counted.all.ml * rates.times * shares.ink.ml, cost: costs.ink * shares.ink.cost }
    },
    on: { machineId, mediaId, machine, media, mode: { code: mode.code, name: mode.name } }
  };
}
