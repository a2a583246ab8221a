import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call(
  {
    summary: 'Ink of each plate at a point of a run, pixels from its top left',
    query: z.object({ x: z.coerce.number().int().min(0), y: z.coerce.number().int().min(0) })
  },
  async ({ shop, event, query }) => ({ inks: await shop.inspecting.inkAt(idOf(event), query.x, query.y) })
);
