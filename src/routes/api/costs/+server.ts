import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';
import { costsCsv, costsOf } from '$lib/server/printing/costs';

const Query = z.object({ weeks: z.coerce.number().default(4), as: z.enum(['json', 'csv']).default('json') });

export const GET = call(
  {
    summary: 'What was printed in the last weeks, by day and media, or docket by docket as CSV',
    query: Query,
    answers: 'text/csv'
  },
  ({ shop, query }) =>
    query.as === 'csv'
      ? new Response(costsCsv(shop.db, query.weeks), {
          headers: {
            'content-type': 'text/csv; charset=utf-8',
            'content-disposition': `attachment; filename="costs-${query.weeks}-weeks.csv"`
          }
        })
      : costsOf(shop.db, query.weeks)
);
