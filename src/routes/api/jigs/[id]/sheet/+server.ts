import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';
import { SHEETS } from '$lib/server/production/jig-intake';

export const POST = call(
  {
    summary: 'A run that prints the outlines of a jig, or the marks for a photo of it',
    body: z.object({
      what: z.enum(SHEETS),
      colour: z.string().regex(/^#[0-9a-f]{6}$/i),
      weightMm: z
        .number({ error: 'The weight of the lines is a figure.' })
        .min(0.05, 'Lines are 0.05 to 5 mm.')
        .max(5, 'Lines are 0.05 to 5 mm.'),
      conditionId: z.int()
    })
  },
  async ({ shop, event, body: { what, conditionId, ...style } }) => ({
    run: await shop.jigIntake.sheetRun(shop.jigs.get(idOf(event)).jig, what, style, conditionId)
  })
);
