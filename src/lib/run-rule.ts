import { z } from 'zod';
import { InPocket } from './in-jig';
import { DEFAULT_MARKS, MarkRule } from '$core/marks/registration';
import type { HalftoneMethod } from '$core/screening/screener';
import { DEFAULT_POCKETS } from '$core/layout/in-pockets';
import { MOST_POCKETS } from '$core/layout/jig';
import { CORNERS, EFFORTS, PLACING_RULES, SHARINGS } from '$core/layout/placement';

/** How a run is laid out and released, as browser and server agree on it. */

const distance = (what: string, most: number) =>
  z
    .number({ error: `The ${what} must be a figure.` })
    .min(0, `The ${what} must not be below 0.`)
    .max(most, `The ${what} must be at most ${most} mm.`);

export const HALFTONES = ['blue-noise', 'error-diffusion'] as const satisfies readonly HalftoneMethod[];
export const HALFTONE_WORDS: Record<HalftoneMethod, string> = {
  'blue-noise': 'blue noise',
  'error-diffusion': 'error diffusion'
};

export const RunRule = z.object({
  gapX: distance('gap across', 500),
  gapY: distance('gap along', 500),
  margin: distance('margin', 500),
  lead: distance('lead', 2000),
  tail: distance('tail', 2000),
  align: z.enum(['left', 'centre', 'right']),
  method: z.enum(HALFTONES),
  placing: z.enum(PLACING_RULES).default('rows'),
  /** The gaps are changed together. */
  linked: z.boolean().default(true),
  single: z.boolean().default(false),
  fill: z.enum(['none', 'row', 'all']).default('none'),
  longest: z
    .number({ error: 'The longest run must be a figure.' })
    .min(100, 'The longest run is 100 mm to 1000 m.')
    .max(1e6, 'The longest run is 100 mm to 1000 m.')
    .nullable()
    .default(null),
  turnStep: z.union([z.literal(0), z.literal(180), z.literal(90), z.literal(45), z.literal(15)]).default(90),
  effort: z.enum(EFFORTS).default('normal'),
  steps: z.int().min(1).max(10_000_000).nullable().default(null),
  corner: z.enum(CORNERS).default('front left'),
  marks: MarkRule.default(DEFAULT_MARKS),
  colourBar: z.boolean().default(false),
  cutAlong: z.enum(['lines', 'pieces']).optional(),
  /** The jig whose pockets it is placed in. */
  jig: z.int().min(1).nullable().default(null),
  pockets: InPocket.extend({
    sharing: z.enum(SHARINGS),
    touched: z
      .array(
        z.object({
          at: z.union([z.enum(CORNERS), z.int().min(1).max(MOST_POCKETS)]),
          x: z.number({ error: 'Where a point was touched is a figure.' }).min(-1e5).max(1e5),
          y: z.number({ error: 'Where a point was touched is a figure.' }).min(-1e5).max(1e5)
        })
      )
      .max(9, 'At most nine points are touched.')
      .default([])
  }).default(DEFAULT_POCKETS)
});
export type RunRule = z.infer<typeof RunRule>;

export const DEFAULT_RULE: RunRule = RunRule.parse({
  gapX: 4,
  gapY: 4,
  margin: 5,
  lead: 10,
  tail: 20,
  align: 'centre',
  method: 'blue-noise'
});

/** A copy that was put where it is by hand. */
export const Pin = z.object({
  id: z.string().max(20),
  copy: z.int().min(0).max(100_000),
  part: z.int().min(0).max(10_000),
  x: z.number().min(-1e6).max(1e6),
  y: z.number().min(-1e6).max(1e6),
  turn: z.number().min(0).max(359.999),
  pocket: z.int().min(1).max(MOST_POCKETS).optional()
});

/** When a lane's runs print without being told to. */
export const Release = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('hand') }),
  /** Nothing new has come for so long. */
  z.object({
    kind: z.literal('quiet'),
    minutes: z.number().min(0.05, 'The wait is at least 0.05 minutes.').max(10_080, 'The wait is at most a week.')
  }),
  /** A sheet is filled to a share, or a roll's run is so long. */
  z.object({
    kind: z.literal('full'),
    share: z.number().min(0.05, 'A sheet is filled to 5 to 100 %.').max(1, 'A sheet is filled to 5 to 100 %.'),
    lengthMm: distance('length', 1e6)
  }),
  z.object({ kind: z.literal('at'), time: z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'The time looks like 17:30.') })
]);
export type Release = z.infer<typeof Release>;

export const LaneChange = z.object({ conditionId: z.int(), rule: RunRule, release: Release }).partial();
export type LaneChange = z.infer<typeof LaneChange>;

/** How far a run is. */
export type RunState = 'laying out' | 'ripping' | 'ripped' | 'printing' | 'printed';
