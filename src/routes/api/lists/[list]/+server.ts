import { call } from '$lib/server/platform/http/call';
import { listOf } from '../list-of';

export const GET = call(
  {
    summary: 'A page of a list (dockets, artwork, runs, cuts): filtered by words q and facets, ordered by sort, beginning at from'
  },
  ({ shop, event }) => shop.lists.page(listOf(event), event.url.searchParams)
);
