import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Again = z.object({
  place: z.int().min(1),
  code: z.string().max(30).optional(),
  isHalfCut: z.boolean().optional(),
  allSame: z.boolean().optional()
});

export const POST = call({ summary: 'Go back to a place of the roll and cut it', body: Again }, ({ shop, event, body }) =>
  shop.rolls.again(idOf(event), body.place, body, event.url.origin)
);
