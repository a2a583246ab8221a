import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';
import { jsonText } from '$lib/server/platform/http/json-text';
import { Background } from '$lib/docket-choices';

const How = z.object({
  how: z.enum(['opaque', 'background']),
  background: jsonText('The background', 100).pipe(Background).optional()
});

export const GET = call(
  {
    summary: 'How opaque a docket’s page is, or how far from its background: one byte a pixel',
    query: How,
    answers: 'application/octet-stream'
  },
  async ({ shop, event, query }) => {
    const field = await shop.pictures.field(idOf(event), query.how, query.background ?? null);
    const { samples, ...head } = field;
    return new Response(Uint8Array.from(samples), {
      headers: { 'content-type': 'application/octet-stream', 'x-field': JSON.stringify(head) }
    });
  }
);
