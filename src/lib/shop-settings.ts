import { z } from 'zod';
import { Tone } from '$core/colour/tone';
import { SHOP_UNITS } from '$core/units/length';
import { plainName } from '$core/units/names';
import { WatchRule } from './watch';
import { DEFAULT_RULES, RoleRule } from '$core/artwork/roles';
import { ShopLists } from '$core/records/lists';
import { DEFAULT_LIMITS, Limits } from '$core/checks/check';
import { SourceChoice } from './docket-choices';

/** What a shop has chosen for all that it does, as browser and server agree on it. */

const INK_COST = 'A ml of ink costs 0 to 1,000.';
export const ShopSettings = z.object({
  shopName: z.string().max(80, 'The shop’s name has at most 80 characters.'),
  unit: z.enum(SHOP_UNITS),
  currency: z
    .string()
    .trim()
    .min(1, 'A currency is said in one to four characters.')
    .max(4, 'A currency is said in one to four characters.'),
  rules: z.array(RoleRule).max(200, 'At most 200 rules.').default(DEFAULT_RULES),
  limits: Limits.default(DEFAULT_LIMITS),
  inkCostPerMl: z.number({ error: INK_COST }).min(0, INK_COST).max(1000, INK_COST),
  /** What looking at one file may take. */
  intake: z
    .object({
      seconds: z.int('Whole seconds.').min(5, 'A look takes 5 s at least.').max(600, 'A look takes 600 s at most.'),
      megabytes: z
        .int('Whole megabytes.')
        .min(300, 'A look takes 300 MB at least.')
        .max(64_000, 'A look takes 64,000 MB at most.')
    })
    .default({ seconds: 20, megabytes: 1000 }),
  sources: SourceChoice.default({ rgb: 'srgb', cmyk: 'offset', grey: 'grey' }),
  /** ΔE00 within which a verified condition passes. */
  tolerance: z
    .object({
      mean: z
        .number({ error: 'The mean tolerance is 0.1 to 10.' })
        .min(0.1, 'The mean tolerance is 0.1 to 10.')
        .max(10, 'The mean tolerance is 0.1 to 10.'),
      p95: z
        .number({ error: 'The tolerance for 95 % is 0.1 to 20.' })
        .min(0.1, 'The tolerance for 95 % is 0.1 to 20.')
        .max(20, 'The tolerance for 95 % is 0.1 to 20.')
    })
    .default({ mean: 1, p95: 2 }),
  /** Plates of printed runs are deleted so many days after their last print; never where nothing is said. */
  platesDays: z
    .int('Whole days.')
    .min(1, 'Plates are kept for a day at least.')
    .max(3650, 'Plates are kept for at most 3,650 days; or for ever.')
    .nullable()
    .default(null),
  /** When conditions are to be read again. */
  watch: WatchRule.default({ days: null, metres: null, afterService: true }),
  /** Tones of the shop's own, by name. */
  tones: z
    .array(
      z.object({
        name: z.string().trim().min(1, 'A tone needs a name.').max(60, 'A name has at most 60 characters.'),
        tone: Tone
      })
    )
    .max(60, 'At most 60 tones are kept.')
    .refine((tones) => new Set(tones.map(({ name }) => plainName(name))).size === tones.length, 'Two tones have the same name.')
    .default([]),
  /** For fields of records. */
  lists: ShopLists.default([]),
  libraryUrl: z
    .union([z.literal(''), z.url({ protocol: /^http$/, error: 'The address looks like http://192.168.1.20:8080' })])
    .default('')
});
export type ShopSettings = z.infer<typeof ShopSettings>;

/** Some of the settings: what is not said stays, and is not what it was at first. */
export const SettingsChange = z.object(
  Object.fromEntries(
    Object.entries(ShopSettings.shape).map(([name, schema]) => [
      name,
      (schema instanceof z.ZodDefault ? schema.unwrap() : schema).optional()
    ])
  )
) as unknown as z.ZodType<Partial<ShopSettings>>;
