import { z } from 'zod';
import { Background } from '$lib/docket-choices';
import { call, idOf } from '$lib/server/platform/http/call';

const Wanted = z.object({
  how: z.enum(['opaque', 'background', 'shapes']),
  threshold: z.number().min(0).max(200),
  background: Background.nullable()
});

export const POST = call({ summary: 'Find the outline of a docket’s page', body: Wanted }, async ({ shop, event, body }) => ({
  outline: await shop.pictures.trace(idOf(event), body.how, body.threshold, body.background)
}));
