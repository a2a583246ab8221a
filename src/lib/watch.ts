import { z } from 'zod';
import type { ChannelDrift } from '$core/calibration/matching';
import type { Triple } from '$core/colour/lab';
import type { Chart } from './calibration';

/** What browser and server agree on about watching a condition. */

/** More ΔE00 in the mean than this is worth correcting: below it is what reading twice gives. */
export const WORTH_CORRECTING = 0.4;

export interface DriftRead {
  id: number;
  chartId: number;
  at: number;
  mean: number;
  p95: number;
  worst: number;
  worstId: string;
  channels: ChannelDrift[];
  /** Channels that no longer come to their full tone. */
  short: { name: string; from: number }[];
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
    /** The condition is another since: its profile or curves were made anew. */
    isOld: boolean;
  } | null;
  /** Of this baseline, the oldest first. */
  drifts: DriftRead[];
  /** Of the last of them: patch by patch. */
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
  z.object({ act: z.literal('note'), what: z.enum(NOTES) })
]);
export type WatchAct = z.infer<typeof WatchAct>;
