import { z } from 'zod';
import { CUT_CLOSED } from '$lib/server/cutting/cut';
import { call } from '$lib/server/platform/http/call';
import { idList } from '$lib/server/platform/http/ids';
import { MOST_AT_ONCE } from '$lib/server/platform/listing';

export const POST = call(
  {
    summary: 'Say that prints were cut elsewhere, or are not to be cut; or put them back to those that wait',
    body: z.object({ ids: idList('cut task', MOST_AT_ONCE), what: z.enum([...CUT_CLOSED, 'put back']) })
  },
  ({ shop, body: { ids, what } }) => ({ ids: what === 'put back' ? shop.cuts.putBack(ids) : shop.cuts.close(ids, what) })
);
