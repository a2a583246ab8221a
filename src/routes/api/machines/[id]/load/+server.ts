import { z } from 'zod';
import { call, idOf } from '$lib/server/api';

const Load = z.object({ mediaId: z.int(), which: z.int().min(0).max(1000) });

export const POST = call(
  { summary: 'Put a roll or sheets from stock on a machine; what is left on it goes into stock', body: Load },
  ({ shop, event, body }) => shop.lanes.load(idOf(event), body.mediaId, body.which)
);
