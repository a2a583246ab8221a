import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';
import { Background } from '$lib/model';

const How = z.object({ how: z.enum(['opaque', 'background']), background: z.string().optional() });

export const GET = call(
  {
    summary: 'How opaque a docket’s page is, or how far from its background: one byte a pixel',
    query: How,
    answers: 'application/octet-stream'
  },
  async ({ shop, event, query }) => {
    const background = query.background ? Background.parse(JSON.parse(query.background)) : null;
    const field = await shop.pictures.field(idOf(event), query.how, background);
    const { samples, ...head } = field;
    return new Response(Uint8Array.from(samples), {
      headers: { 'content-type': 'application/octet-stream', 'x-field': JSON.stringify(head) }
    });
  }
);
