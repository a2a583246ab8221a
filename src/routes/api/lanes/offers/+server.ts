import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';
import { laneOffers } from '$lib/server/production/lane-offers';

export const POST = call(
  {
    summary: 'What would become of dockets in a lane, or in each',
    body: z.object({ docketIds: z.array(z.int()).min(1).max(200, 'At most 200 dockets at once.'), laneId: z.int().optional() })
  },
  ({ shop, body }) => laneOffers(shop, body.docketIds, body.laneId)
);
