import { z } from 'zod';
import type { RunDocket } from '$core/layout/run-layout';

/** What browser and server agree on. Every figure that a person gives is checked here, once, with the limits in the sentence. */

export const MOST_MM = 50_000;

const size = (what: string) =>
  z
    .number({ error: `The ${what} must be a figure.` })
    .min(1, `The ${what} must be at least 1 mm.`)
    .max(MOST_MM, `The ${what} must be at most ${MOST_MM / 1000} m.`);

const distance = (what: string, most: number) =>
  z
    .number({ error: `The ${what} must be a figure.` })
    .min(0, `The ${what} must not be below 0.`)
    .max(most, `The ${what} must be at most ${most} mm.`);

export const DocketChoices = z.object({
  widthMm: size('width'),
  heightMm: size('height'),
  copies: z.int('Copies are counted in whole numbers.').min(1, 'At least 1 copy.').max(10_000, 'At most 10,000 copies.'),
  bleedMm: distance('bleed', 100),
  conditionId: z.int().nullable(),
  cut: z.boolean(),
  mayTurn: z.boolean(),
  intent: z.enum(['relative', 'perceptual', 'saturation'])
});
export type DocketChoices = z.infer<typeof DocketChoices>;

export const RunRule = z.object({
  gapX: distance('gap across', 500),
  gapY: distance('gap along', 500),
  margin: distance('margin', 500),
  lead: distance('lead', 2000),
  tail: distance('tail', 2000),
  align: z.enum(['left', 'centre', 'right']),
  method: z.enum(['blue-noise', 'error-diffusion'])
});
export type RunRule = z.infer<typeof RunRule>;

export const DEFAULT_RULE: RunRule = { gapX: 4, gapY: 4, margin: 5, lead: 10, tail: 20, align: 'centre', method: 'blue-noise' };

/** A docket's choices as the layout takes them. */
export function toLayoutDocket(docket: { id: number; choices: DocketChoices }): RunDocket {
  const { widthMm, heightMm, bleedMm, copies, cut, mayTurn, intent } = docket.choices;
  return { id: String(docket.id), widthMm, heightMm, bleedMm, copies, cut, mayTurn, intent };
}

export const PrintMode = z.object({
  name: z.string(),
  dpi: z.number(),
  passes: z.number()
});

export const KnifeChoice = z.object({
  speed: z.number().min(1, 'The speed is 1 to 100 cm/s.').max(100, 'The speed is 1 to 100 cm/s.'),
  force: z.number().min(1, 'The force is 1 to 600 g.').max(600, 'The force is 1 to 600 g.'),
  overcut: z.number().min(0).max(20, 'The overcut is 0 to 20 mm.')
});
export type KnifeChoice = z.infer<typeof KnifeChoice>;

export const ShopSettings = z.object({
  shopName: z.string().max(80),
  unit: z.enum(['mm', 'cm', 'in']),
  currency: z.string().min(1).max(4),
  cutNames: z.array(z.string().min(1, 'A name must not be empty.').max(60)).max(50),
  inkCostPerMl: z.number().min(0).max(1000)
});
export type ShopSettings = z.infer<typeof ShopSettings>;

/** The residual above which the cutter does not start, mm. */
export const MOST_RESIDUAL_MM = 0.3;
