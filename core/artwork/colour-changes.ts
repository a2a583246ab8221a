import { z } from 'zod';
import { SurfaceLab } from '../colour/named-colour';

/** What of a page prints in another colour than its file says. */

export const ColourChange = z.object({
  what: z.union([
    z.object({ spot: z.string().max(200) }),
    z.object({
      flat: SurfaceLab,
      /** CIEDE2000. */
      within: z
        .number({ error: 'The tolerance must be a figure.' })
        .min(0, 'The tolerance is ΔE 0 to 20.')
        .max(20, 'The tolerance is ΔE 0 to 20.')
    })
  ]),
  /** The number of a named colour; nothing for a spot colour that prints as the file shows it, though the shop knows its name. */
  to: z.int().min(1).nullable()
});
export type ColourChange = z.infer<typeof ColourChange>;

/** Of spot colours and flat colours together. */
export const MOST_CHANGES = 100;
