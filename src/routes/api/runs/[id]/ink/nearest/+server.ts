import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';
import { ShownPlates } from '$lib/server/production/inspecting';

export const GET = call(
  {
    summary:
      'Where ink of the plates that are shown lies nearest to a point of a run, pixels from its top left; null where they are blank',
    query: z.object({ x: z.coerce.number().int().min(0), y: z.coerce.number().int().min(0), inks: ShownPlates })
  },
  async ({ shop, event, query: { x, y, inks } }) => ({
    place: (await shop.inspecting.nearestInk(idOf(event), { x, y }, inks)) ?? null
  })
);
