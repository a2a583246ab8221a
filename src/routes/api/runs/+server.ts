import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';

export const POST = call(
  {
    summary: 'Put dockets into the open runs of their lanes, or new ones',
    body: z.object({ docketIds: z.array(z.int()).min(1).max(2000, 'At most 2000 dockets at once.'), laneId: z.int().optional() })
  },
  ({ shop, body }) => {
    const ids = shop.runEditing.add(body.docketIds, body.laneId);
    return { id: ids[0], ids };
  }
);
