import { z } from 'zod';
import { ManyChange } from '$lib/docket-choices';
import { idList } from '$lib/server/platform/http/ids';
import { call, WITH_OUTLINES } from '$lib/server/platform/http/call';
import { MOST_AT_ONCE } from '$lib/server/platform/listing';

const Ids = idList('docket', MOST_AT_ONCE);

export const PUT = call(
  { summary: 'Change many dockets at once', body: z.object({ ids: Ids, change: ManyChange }), most: WITH_OUTLINES },
  ({ shop, body }) => shop.docketEditing.changeMany(body.ids, body.change)
);

export const DELETE = call(
  { summary: 'Delete dockets that are in no run; they can be brought back for a week', body: z.object({ ids: Ids }) },
  ({ shop, body }) => shop.docketShelf.remove(body.ids)
);

export const POST = call(
  {
    summary: 'Put dockets away, bring them back into the open list, or bring back what was deleted',
    body: z.object({ ids: Ids, what: z.enum(['put away', 'bring back', 'restore']) })
  },
  ({ shop, body: { ids, what } }) => ({
    ids: what === 'restore' ? shop.docketShelf.restore(ids) : shop.docketShelf.putAway(ids, what === 'put away')
  })
);
