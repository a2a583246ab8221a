import { z } from 'zod';
import { idList } from '$lib/server/platform/http/ids';
import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call(
  {
    summary: 'Put dockets into the open run of a lane, in its print mode: all or none',
    body: z.object({ docketIds: idList('docket', 200) })
  },
  ({ shop, event, body }) => ({ runId: shop.layingOut.move(body.docketIds, idOf(event)) })
);
