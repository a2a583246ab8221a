import { z } from 'zod';

/** How a docket is finished, as it is chosen. Lengths in mm. */

const length = (what: string, least: number, most: number) =>
  z
    .number({ error: `The ${what} must be a figure.` })
    .min(least, `The ${what} is ${least} to ${most} mm.`)
    .max(most, `The ${what} is ${least} to ${most} mm.`);

export const Eyelets = z.object({
  /** Evenly, no farther apart than `spacing`; or so many along the top and bottom, and the sides, corners counted. */
  by: z.enum(['spacing', 'count']),
  spacing: length('spacing of eyelets', 20, 5000),
  across: z.int().min(0, 'Eyelets are counted from 0.').max(500, 'At most 500 eyelets an edge.'),
  down: z.int().min(0, 'Eyelets are counted from 0.').max(500, 'At most 500 eyelets an edge.'),
  /** From the finished edges to the middle of an eyelet. */
  inset: length('inset of eyelets', 0, 1000),
  look: z.enum(['mark', 'ring']),
  diameter: length('diameter of eyelets', 2, 100)
});
export type Eyelets = z.infer<typeof Eyelets>;

export const Finishing = z.object({
  crop: z
    .object({
      length: length('length of crop marks', 1, 50),
      offset: length('offset of crop marks', 0, 50),
      weight: length('weight of crop marks', 0.05, 2)
    })
    .nullable(),
  centre: z.boolean(),
  outline: z.boolean(),
  /** From the top edge of the finished size. */
  folds: z.array(length('place of a fold', 0, 60_000)).max(20, 'At most 20 folds.'),
  /** Material beyond each finished edge for a pole, folded back on the finished edge. */
  pockets: z.object({
    top: length('pocket', 0, 1000),
    right: length('pocket', 0, 1000),
    bottom: length('pocket', 0, 1000),
    left: length('pocket', 0, 1000)
  }),
  /** Material beyond all edges, folded back. */
  hem: length('hem', 0, 500),
  eyelets: Eyelets.nullable(),
  caption: z.boolean(),
  ink: z.enum(['registration', 'black']),
  /** Every copy is turned by this, clockwise. */
  turn: z.union([z.literal(0), z.literal(90), z.literal(180), z.literal(270)]),
  numbered: z.boolean()
});
export type Finishing = z.infer<typeof Finishing>;
