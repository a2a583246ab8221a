import { z } from 'zod';
import { idList } from '$lib/server/platform/http/ids';
import { call } from '$lib/server/platform/http/call';
import { MOST_AT_ONCE } from '$lib/server/platform/listing';

export const POST = call(
  { summary: 'What all of some dockets have alike', body: z.object({ ids: idList('docket', MOST_AT_ONCE) }) },
  ({ shop, body }) => shop.docketShelf.shared(body.ids)
);
