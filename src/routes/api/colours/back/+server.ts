import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';
import { MOST_AT_ONCE } from '$lib/server/platform/listing';

export const POST = call(
  { summary: 'Bring deleted colours back', body: z.object({ ids: z.array(z.int().min(1)).min(1).max(MOST_AT_ONCE) }) },
  ({ shop, body }) => shop.colours.bringBack(body.ids)
);
