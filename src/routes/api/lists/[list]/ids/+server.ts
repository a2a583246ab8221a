import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';
import { MOST_AT_ONCE } from '$lib/server/platform/listing';
import { listOf } from '../../list-of';

export const GET = call(
  {
    summary: 'The numbers of rows of a list in its order, from one place on',
    query: z.looseObject({ count: z.coerce.number().int().min(1).max(MOST_AT_ONCE) })
  },
  ({ shop, event, query }) => ({ ids: shop.lists.ids(listOf(event), event.url.searchParams, query.count) })
);

export const POST = call(
  { summary: 'Those of some rows that are still in a list', body: z.object({ ids: z.array(z.int()).max(MOST_AT_ONCE) }) },
  ({ shop, event, body }) => ({ ids: shop.lists.known(listOf(event), event.url.searchParams, body.ids) })
);
