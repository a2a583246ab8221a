import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

/** `which` of the rolls or sheets, as the card had them at its `version`. */
const Load = z.object({ mediaId: z.int(), version: z.int(), which: z.int().min(0).max(1000) });

export const POST = call(
  { summary: 'Put a roll or sheets from stock on a machine; what is left on it goes into stock', body: Load },
  ({ shop, event, body }) => shop.loading.load(idOf(event), body)
);
