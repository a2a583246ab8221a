import { z } from 'zod';
import { idList } from '$lib/server/platform/http/ids';
import { call } from '$lib/server/platform/http/call';

export const POST = call(
  {
    summary: 'Put dockets into the open runs of their lanes, or new ones',
    body: z.object({ docketIds: idList('docket', 2000), laneId: z.int().optional() })
  },
  ({ shop, body }) => {
    const stay = shop.layingOut.lying(body.docketIds);
    const ids = shop.layingOut.add(body.docketIds, body.laneId);
    return { id: ids[0], ids, stay };
  }
);
