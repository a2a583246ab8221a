import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';

export const POST = call(
  {
    summary: 'Which named colours are meant by names, and which might be',
    body: z.object({ names: z.array(z.string().max(200)).max(500) })
  },
  ({ shop, body }) => body.names.map((name) => shop.colours.match(name))
);
