import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call(
  {
    summary: 'Put dockets into the open run of a lane, in its print mode: all or none',
    body: z.object({ docketIds: z.array(z.int()).min(1).max(200, 'At most 200 dockets at once.') })
  },
  ({ shop, event, body }) => ({ runId: shop.runEditing.move(body.docketIds, idOf(event)) })
);
