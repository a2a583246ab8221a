import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';
import { sinceWeeks } from '$lib/server/printing/costs';
import { reportCsv, reportOf } from '$lib/server/printing/report';

const day = z.iso.date('A day is as 2027-08-28.');
const Query = z.object({
  /** Days of the server's own clock, both with them. */
  from: day.optional(),
  to: day.optional(),
  /** In place of a first day. */
  weeks: z.coerce.number().default(4),
  as: z.enum(['json', 'csv']).default('json')
});
const midnight = (text: string, days = 0): number => {
  const [year, month, date] = text.split('-').map(Number) as [number, number, number];
  return new Date(year, month - 1, date + days).getTime();
};

export const GET = call(
  {
    summary: 'What was printed, docket by docket, as JSON or CSV: from a day to a day, or in the last weeks',
    query: Query,
    answers: 'text/csv'
  },
  ({ shop, query: { from, to, weeks, as } }) => {
    const lines = reportOf(
      shop.db,
      from === undefined ? sinceWeeks(weeks) : midnight(from),
      to === undefined ? Date.now() : midnight(to, 1) - 1
    );
    if (as === 'json') return lines;
    const name = ['printed', from ?? `${weeks}-weeks`, to].filter(Boolean).join('-');
    return new Response(reportCsv(lines), {
      headers: { 'content-type': 'text/csv; charset=utf-8', 'content-disposition': `attachment; filename="${name}.csv"` }
    });
  }
);
