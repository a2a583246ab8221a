import { z } from 'zod';
import { TOTAL_SERIES } from '$core/charts/patches';
import { Tone } from '$core/colour/tone';
import { MIXTURE_FIGURES } from '$core/inks/mixture';
import { BlackSetting, type ResultStep } from '$lib/calibration';

/** What steps came to, as another shop wrote it: every figure that is computed with or shown is checked before it is taken. */

const figure = z.number().min(-1e7).max(1e7);
const words = z.string().max(500);
const lab = z.tuple([figure, figure, figure]);
const inks = z.tuple([z.number().min(0).max(1), z.number().min(0).max(1), z.number().min(0).max(1), z.number().min(0).max(1)]);
const curves = z.array(z.array(z.number().min(0).max(1)).length(256)).length(4);
const evenLadder = z.object({
  name: words,
  shares: z.array(figure).max(200),
  values: z.array(figure).max(200),
  departures: z.array(figure).max(200),
  worst: figure
});
const limit = z.number().min(0.4).max(4);

export const BroughtDocument: Record<ResultStep, z.ZodType<Record<string, unknown>>> = {
  start: z.object({ curves, hash: words }),
  limits: z.object({
    channels: z
      .array(
        z.object({
          name: words,
          suggested: z.number().min(0).max(1),
          chosen: z.number().min(0.2).max(1),
          why: words,
          gains: z.array(figure).max(200),
          steps: z.array(z.object({ share: figure, lab, distance: figure, chroma: figure, hue: figure })).max(200)
        })
      )
      .length(4)
  }),
  linear: z.object({ evenness: z.enum(['distance', 'chroma']), curves, before: z.array(evenLadder).max(4) }),
  'linear check': z.object({ after: z.array(evenLadder).max(4), worst: figure }),
  total: z.object({
    series: z
      .array(
        z.object({
          series: z.enum(TOTAL_SERIES),
          steps: z.array(z.object({ total: figure, lab, value: figure })).max(200),
          suggested: figure,
          why: words
        })
      )
      .max(5),
    limits: z.object({ total: limit, red: limit.optional(), green: limit.optional(), blue: limit.optional() })
  }),
  profile: z.object({
    hash: words,
    source: z.enum(['measured', 'imported']),
    name: words,
    version: figure,
    patches: z.int().min(0).max(20_000),
    fit: z.object({ mean: figure, p95: figure, worst: figure, worstId: words }).nullable(),
    errors: z.record(z.string().max(40), figure),
    findings: z
      .array(
        z.object({
          kind: z.enum(['backwards', 'other strip', 'not its colour', 'missing', 'outlier']),
          strip: z.int(),
          ids: z.array(words).max(500),
          text: words
        })
      )
      .max(5000),
    gamutVolume: figure,
    neutrals: z.array(z.object({ lightness: figure, inks })).max(500),
    black: BlackSetting.nullable(),
    white: lab.nullable()
  }),
  verify: z.object({
    mean: figure,
    p95: figure,
    worst: figure,
    tolerance: z.object({ mean: figure, p95: figure }),
    pass: z.boolean(),
    patches: z.array(z.object({ id: words, inks, asked: lab, lab, deltaE: figure })).max(1000)
  }),
  match: z.object({
    tables: curves,
    mixture: z.array(z.number().min(-1).max(1)).length(MIXTURE_FIGURES).optional(),
    short: z.array(z.object({ name: words, from: z.number().min(0).max(1) })).max(4),
    before: z.object({ mean: figure, p95: figure, worst: figure })
  }),
  tone: z.object({ tone: Tone })
};
