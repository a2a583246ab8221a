import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call(
  {
    summary: 'A picture of what came out, 90 pixels an inch: from a side, over a colour, or of how it shines',
    answers: 'image/png',
    query: z.object({
      from: z.enum(['front', 'behind', 'gloss']).default('front'),
      backing: z
        .string()
        .regex(/^#[0-9a-f]{6}$/i, 'A colour is six figures after #.')
        .default('#ffffff')
    })
  },
  async ({ shop, event, query }) => {
    const png = await shop.printing.output(idOf(event), query);
    return new Response(new Uint8Array(png), { headers: { 'content-type': 'image/png', 'cache-control': 'no-store' } });
  }
);
