import { z } from 'zod';
import { MediaCard } from '$core/media/card';
import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'A media card' }, ({ shop, event }) => shop.media.get(idOf(event)));
export const PUT = call(
  { summary: 'Change a media card', body: z.object({ version: z.int(), card: MediaCard }) },
  ({ shop, event, body }) => shop.media.change(idOf(event), body.version, body.card)
);
export const DELETE = call(
  { summary: 'Delete a media card that nothing was printed or measured on; else put it away, with all that is known of it' },
  ({ shop, event }) => shop.media.remove(idOf(event))
);
