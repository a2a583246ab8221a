import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';

const Page = z.object({ artworkId: z.int(), page: z.int().min(0) });

export const GET = call({ summary: 'All dockets' }, ({ shop }) => shop.dockets.list());

export const POST = call(
  {
    summary: 'Make a docket of each of these artwork pages',
    body: z.object({ pages: z.array(Page).min(1, 'Choose at least one page.').max(2000, 'At most 2000 dockets at once.') })
  },
  ({ shop, body }) => ({ ids: shop.dockets.addMany(body.pages) })
);
