import { z } from 'zod';
import { search } from '$lib/server/app/search';
import { call } from '$lib/server/platform/http/call';

export const GET = call(
  { summary: 'Find things of the shop by their names, a few of each kind', query: z.object({ q: z.string().max(200) }) },
  ({ shop, query }) => search(shop.db, query.q)
);
