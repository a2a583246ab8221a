import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';
import { laneOffers } from '$lib/server/production/lane-offers';

export const GET = call({ summary: 'What would become of a docket in each lane' }, ({ shop, event }) =>
  laneOffers(shop, idOf(event))
);
export const POST = call(
  { summary: 'Move a docket to a lane', body: z.object({ laneId: z.int() }) },
  ({ shop, event, body }) => ({
    runId: shop.runEditing.move(idOf(event), body.laneId)
  })
);
