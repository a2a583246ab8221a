import { z } from 'zod';
import type { TotalCurve } from '$core/calibration/total-ink';
import type { LadderStep } from '$core/calibration/ladders';
import type { Fit } from '$core/calibration/profile-from-chart';
import type { Finding } from '$core/charts/check-readings';
import type { ChartLayout } from '$core/charts/chart-layout';
import type { ChartKind } from '$core/charts/patches';
import type { Triple } from '$core/colour/lab';
import type { Inks } from '$core/colour/separation';
import type { Tone } from '$core/colour/tone';
import type { Variant } from './variants';

/** What browser and server agree on about climbing a printing condition. */

export const STEPS = ['limits', 'linear', 'total', 'profile', 'verify'] as const;
export type Step = (typeof STEPS)[number];

/** What a gamut can be compared with beside other conditions. */
export const STANDARD_SPACES = ['srgb', 'wide', 'offset'] as const;
export type StandardSpace = (typeof STANDARD_SPACES)[number];

/** The results that count, by step; `start` is the machine's own, `linear check` a second print of the ladders, `match` what brings it back to its baseline, `tone` the curves of what is printed on it. */
export const RESULTS = ['start', 'limits', 'linear', 'linear check', 'total', 'profile', 'verify', 'match', 'tone'] as const;
export type ResultStep = (typeof RESULTS)[number];
export type ResultIds = Partial<Record<ResultStep, number>>;

/** What each result rests on: done again, those that rest on it are stale. */
export const RESTS_ON: Record<ResultStep, ResultStep[]> = {
  start: [],
  limits: [],
  linear: ['limits'],
  'linear check': ['linear'],
  total: ['linear'],
  profile: ['linear', 'total'],
  verify: ['linear', 'profile'],
  match: ['linear', 'profile'],
  tone: []
};

export const STEP_WORDS: Record<Step, { name: string; chart: ChartKind; does: string }> = {
  limits: { name: 'Ink limits', chart: 'limits', does: 'How much of each ink still adds colour.' },
  linear: { name: 'Linearise', chart: 'linear', does: 'Each ink rises evenly from the media to its limit.' },
  total: { name: 'Total ink', chart: 'total', does: 'How much ink in all the media takes.' },
  profile: { name: 'Profile', chart: 'profile', does: 'Which inks make which colour.' },
  verify: { name: 'Verify', chart: 'verify', does: 'Whether colours that were not in the chart come out right.' }
};

export interface StartResult {
  /** By ink, 256 values → share of the fullest drop. */
  curves: number[][];
  hash: string;
}

export interface LimitsResult {
  channels: { name: string; chosen: number; suggested: number; why: string; steps: LadderStep[]; gains: number[] }[];
}

export interface EvenLadder {
  name: string;
  shares: number[];
  /** What rises: ΔE from the media, or chroma. */
  values: number[];
  /** Per cent of the end, by step. */
  departures: number[];
  worst: number;
}

export interface LinearResult {
  evenness: 'distance' | 'chroma';
  curves: number[][];
  before: EvenLadder[];
}

export interface LinearCheckResult {
  after: EvenLadder[];
  worst: number;
}

export interface TotalResult {
  series: TotalCurve[];
  limits: { total: number; red?: number | undefined; green?: number | undefined; blue?: number | undefined };
}

export interface ProfileResult {
  hash: string;
  source: 'measured' | 'imported';
  name: string;
  version: number;
  patches: number;
  fit: Fit | null;
  /** ΔE00 by leave-out, by patch. */
  errors: Record<string, number>;
  findings: Finding[];
  gamutVolume: number;
  neutrals: { lightness: number; inks: Inks }[];
  black: BlackSetting | null;
  /** L*a*b* of the bare media. */
  white: Triple | null;
}

export interface VerifyResult {
  mean: number;
  p95: number;
  worst: number;
  tolerance: { mean: number; p95: number };
  pass: boolean;
  patches: { id: string; inks: Inks; asked: Triple; lab: Triple; deltaE: number }[];
}

export interface MatchResult {
  /** By channel of the profile 256 values: what is printed of each. */
  tables: number[][];
  /** What goes before them, where curves alone do not bring it back. */
  mixture?: number[] | undefined;
  /** Channels that no longer come to their full tone, and from which value on. */
  short: { name: string; from: number }[];
  /** ΔE00 from the baseline before. */
  before: { mean: number; p95: number; worst: number };
}

export interface ToneResult {
  /** Of dockets, after their own. */
  tone: Tone;
}

export interface StepDocuments {
  start: StartResult;
  limits: LimitsResult;
  linear: LinearResult;
  'linear check': LinearCheckResult;
  total: TotalResult;
  profile: ProfileResult;
  verify: VerifyResult;
  match: MatchResult;
  tone: ToneResult;
}

/** A result as it is kept: what it rests on by number. */
export interface StepResult<S extends ResultStep = ResultStep> {
  id: number;
  step: S;
  chartId: number | null;
  madeAt: number;
  restsOn: ResultIds;
  stale: boolean;
  document: StepDocuments[S];
}

const share = (what: string, least: number, most: number) =>
  z
    .number({ error: `${what} must be a figure.` })
    .min(least, `${what} is ${least * 100} to ${most * 100} %.`)
    .max(most, `${what} is ${least * 100} to ${most * 100} %.`);

export const BlackSetting = z.object({
  choice: z.enum(['none', 'light', 'medium', 'heavy', 'own']),
  /** Points of an own curve: darkness → share of the possible black. */
  curve: z
    .array(z.tuple([z.number().min(0).max(1), z.number().min(0).max(1)]))
    .min(2)
    .max(12),
  steady: z.boolean()
});
export type BlackSetting = z.infer<typeof BlackSetting>;

export const ChartRequest = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('limits') }),
  z.object({ kind: z.literal('linear'), steps: z.int().min(21, '21 steps at least.').max(51, '51 steps at most.').default(26) }),
  z.object({ kind: z.literal('linear check') }),
  z.object({ kind: z.literal('total') }),
  z.object({ kind: z.literal('profile'), patches: z.int().min(150, '150 patches at least.').max(3000, '3000 patches at most.') }),
  z.object({ kind: z.literal('verify'), patches: z.int().min(12).max(300).default(60) }),
  z.object({ kind: z.literal('baseline') }),
  z.object({ kind: z.literal('compare') })
]);
export type ChartRequest = z.infer<typeof ChartRequest>;

/** What the operator decides when a step is taken. */
export const StepChoice = z.discriminatedUnion('step', [
  z.object({
    step: z.literal('limits'),
    chartId: z.int(),
    channels: z
      .array(share('An ink limit', 0.2, 1))
      .length(4)
      .optional()
  }),
  z.object({ step: z.literal('linear'), chartId: z.int(), evenness: z.enum(['distance', 'chroma']).default('distance') }),
  z.object({ step: z.literal('linear check'), chartId: z.int() }),
  z.object({
    step: z.literal('total'),
    chartId: z.int(),
    total: share('The total ink limit', 0.8, 4).optional(),
    red: share('The limit for reds', 0.4, 2).optional(),
    green: share('The limit for greens', 0.4, 2).optional(),
    blue: share('The limit for blues', 0.4, 2).optional()
  }),
  z.object({
    step: z.literal('profile'),
    chartId: z.int(),
    black: BlackSetting,
    version: z.union([z.literal(2), z.literal(4)]).default(2),
    fine: z.boolean().default(false),
    /** Patches that are left out. */
    without: z.array(z.string().max(20)).max(500).default([])
  }),
  z.object({ step: z.literal('verify'), chartId: z.int() })
]);
export type StepChoice = z.infer<typeof StepChoice>;

export interface Chart {
  id: number;
  conditionId: number;
  kind: ChartKind;
  layout: ChartLayout;
  runId: number;
  /** Of its run: being made, ready to print, printing, printed. */
  state: 'making' | 'ready' | 'printing' | 'printed' | 'failed';
  reason: string | null;
  /** The print that the instrument would read. */
  printId: number | null;
  readings: Record<string, Triple>;
  findings: Finding[];
  /** What each patch is expected to be, as far as is known. */
  expected: Record<string, Triple>;
  /** Patches' wanted colours, where the chart is of colours. */
  asked: Record<string, Triple>;
  /** Of a docket's tone, lettered in their order. */
  variants: Variant[];
  /** It was made before the condition was changed: what is read of it does not tell how it prints now. */
  isOld: boolean;
  madeAt: number;
  readAt: number | null;
}
