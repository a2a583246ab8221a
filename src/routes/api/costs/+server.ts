import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';
import { costsOf } from '$lib/server/printing/costs';

const Query = z.object({ weeks: z.coerce.number().default(4) });

export const GET = call({ summary: 'What was printed in the last weeks, by day and media', query: Query }, ({ shop, query }) =>
  costsOf(shop.db, query.weeks)
);
