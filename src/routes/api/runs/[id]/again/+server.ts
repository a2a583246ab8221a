import { z } from 'zod';
import { call, idOf, WITH_OUTLINES } from '$lib/server/platform/http/call';

const Copies = z.object({
  copies: z
    .array(z.object({ id: z.string().max(20), copy: z.int().min(0) }))
    .min(1, 'Choose a copy at least.')
    .max(100_000, 'At most 100,000 copies.')
});

export const POST = call(
  { summary: 'Print copies of a run once more, in a run of their own', body: Copies, most: WITH_OUTLINES },
  ({ shop, event, body }) => ({
    id: shop.runCopies.again(idOf(event), body.copies)
  })
);
