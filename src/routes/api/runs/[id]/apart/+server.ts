import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Panels = z.object({
  version: z.int(),
  copies: z
    .array(z.object({ id: z.string().max(20), copy: z.int().min(0) }))
    .min(1, 'Choose a panel at least.')
    .max(10_000, 'At most 10,000 copies.')
});

export const POST = call(
  { summary: 'Take panels of a wall out of an open run, into one of their own', body: Panels },
  ({ shop, event, body }) => ({ id: shop.runCopies.apart(idOf(event), body.version, body.copies) })
);
