import { z } from 'zod';
import { idList } from '$lib/server/platform/http/ids';
import { call } from '$lib/server/platform/http/call';
import { MOST_AT_ONCE } from '$lib/server/platform/listing';

export const POST = call(
  { summary: 'Bring deleted colours back', body: z.object({ ids: idList('colour', MOST_AT_ONCE) }) },
  ({ shop, body }) => shop.colours.bringBack(body.ids)
);
