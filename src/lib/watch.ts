import { z } from 'zod';
import type { ChannelDrift } from '$core/calibration/matching';
import type { Triple } from '$core/colour/lab';
import { longUnit, MM_PER, type ShopUnit } from '$core/units/length';
import type { Chart } from './calibration';

/** What browser and server agree on about watching a condition. */

/** More ΔE00 in the mean than this is worth correcting: below it is what reading twice gives. */
export const WORTH_CORRECTING = 0.4;

/** What is known of a condition since it was right. */
export interface WatchSummary {
  baselineAt: number | null;
  /** The condition's profile or curves were made anew since. */
  isOld: boolean;
  /** The last reading against it of what the condition prints through now, ΔE00 in the mean. */
  read: { at: number; mean: number } | null;
  /** It was brought back, and not read since. */
  isBack: boolean;
}

/** When the shop wants conditions read again; null where that does not count. */
export const WatchRule = z.object({
  days: z.int('Whole days.').min(1, 'After a day at least.').max(3650, 'After at most 3,650 days.').nullable(),
  metres: z.number().min(1, 'After a metre at least.').max(1e6, 'After at most 1,000,000 m.').nullable(),
  afterService: z.boolean()
});
export type WatchRule = z.infer<typeof WatchRule>;

/** What was done since a condition was last read. */
export interface Since {
  /** Whole days. */
  days: number;
  metres: number;
  /** What was noted of its machine. */
  notes: readonly string[];
}

/** Why a condition is to be read again, in words; nothing where it is not. */
export function whyDue({ days, metres, notes }: Since, rule: WatchRule, unit: ShopUnit): string | undefined {
  if (rule.afterService && notes.length > 0) return `${[...new Set(notes)].join(' and ')} since it was last read`;
  if (rule.metres !== null && metres >= rule.metres) {
    const long = longUnit(unit);
    return `${Math.round((metres * 1000) / MM_PER[long]).toLocaleString('en-GB')} ${long} printed since it was last read`;
  }
  if (rule.days !== null && days >= rule.days) return `${days} days since it was last read`;
  return undefined;
}

/**
 * A condition's state over time for a list: its words, and whether somebody should look.
 *
 * @param due why it is to be read again
 * @param allowed ΔE00 in the mean that the shop allows
 */
export function watchWords(
  { baselineAt, isOld, read, isBack }: WatchSummary,
  due: string | undefined,
  allowed: number
): { words: string; level: 'open' | 'done' | 'look' } {
  if (baselineAt === null) return { words: 'open', level: 'open' };
  if (isBack) return { words: 'brought back, to be read once more', level: 'look' };
  if (read && read.mean > allowed) return { words: `drifted, ΔE00 ${read.mean.toFixed(1)}`, level: 'look' };
  if (isOld && !read) return { words: 'made anew since its baseline', level: 'look' };
  if (due) return { words: `due: ${due}`, level: 'look' };
  return { words: read ? `ΔE00 ${read.mean.toFixed(1)} from its baseline` : 'baseline kept', level: 'done' };
}

export interface DriftRead {
  id: number;
  /** It was printed through what the condition prints through now. */
  isOfNow: boolean;
  chartId: number;
  at: number;
  mean: number;
  p95: number;
  worst: number;
  worstId: string;
  channels: ChannelDrift[];
  /** Channels that no longer come to their full tone. */
  short: { name: string; from: number }[];
  /** ΔE00 from the baseline once its correction is in force; null where there were too few patches to tell. */
  predicted: { mean: number; p95: number } | null;
  /** The same by curves alone, where inks are corrected together too; else null. */
  byCurves: { mean: number; p95: number } | null;
}

export interface BaselineRoll {
  widthMm: number;
  lengthMm: number;
}

export interface WatchState {
  baseline: {
    id: number;
    origin: string;
    patches: number;
    at: number;
    machine: string;
    media: string;
    mode: string;
    /** That it was read on, where it was read here: what it measured and what was left of it. */
    roll: BaselineRoll | null;
    /** The condition is another since: its profile or curves were made anew. */
    isOld: boolean;
  } | null;
  /** Of this baseline, the oldest first. */
  drifts: DriftRead[];
  /** Of the last of now: patch by patch. */
  patches: { id: string; before: Triple; now: Triple; deltaE: number }[];
  notes: { id: number; what: string; at: number }[];
  /** A correction is in force. */
  isCorrected: boolean;
  charts: { baseline: Chart | null; compare: Chart | null };
}

export const NOTES = ['service', 'new inks', 'new heads', 'other'] as const;

export const WatchAct = z.discriminatedUnion('act', [
  z.object({ act: z.literal('keep baseline'), chartId: z.int().min(1) }),
  z.object({ act: z.literal('adopt baseline'), from: z.int().min(1) }),
  z.object({ act: z.literal('compare'), chartId: z.int().min(1) }),
  z.object({ act: z.literal('correct'), driftId: z.int().min(1) }),
  z.object({ act: z.literal('note'), what: z.enum(NOTES) }),
  z.object({ act: z.literal('take out note'), noteId: z.int().min(1) })
]);
export type WatchAct = z.infer<typeof WatchAct>;
