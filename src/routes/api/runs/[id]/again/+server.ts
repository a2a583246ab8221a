import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Copies = z.object({
  copies: z
    .array(z.object({ id: z.string().max(20), copy: z.int().min(0) }))
    .min(1, 'Choose a copy at least.')
    .max(10_000, 'At most 10,000 copies.')
});

export const POST = call(
  { summary: 'Print copies of a run once more, in a run of their own', body: Copies },
  ({ shop, event, body }) => ({
    id: shop.runEditing.again(idOf(event), body.copies)
  })
);
