import { z } from 'zod';
import { idList } from '$lib/server/platform/http/ids';
import { call } from '$lib/server/platform/http/call';
import { laneOffers } from '$lib/server/production/lane-offers';

export const POST = call(
  {
    summary: 'What would become of dockets in a lane, or in each',
    body: z.object({ docketIds: idList('docket', 200), laneId: z.int().optional() })
  },
  ({ shop, body }) => laneOffers(shop, body.docketIds, body.laneId)
);
