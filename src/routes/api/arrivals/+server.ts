import { z } from 'zod';
import { ARRIVAL_STATES, CameFrom, JobTicket } from '$lib/arrivals';
import { Problem } from '$lib/server/platform/problem';
import { call } from '$lib/server/platform/http/call';

const PAGE = 100;
const Query = z.object({
  states: z
    .string()
    .transform((text) => text.split(','))
    .pipe(z.array(z.enum(ARRIVAL_STATES)))
    .optional(),
  words: z.string().max(200).default(''),
  /** `folder-3`, `printer-1` or `program`. */
  from: CameFrom.optional(),
  before: z.coerce.number().int().optional()
});

export const GET = call({ summary: 'The in-tray: what came by itself, the newest first', query: Query }, ({ shop, query }) => ({
  rows: shop.arrivalStore.list({ ...query, most: PAGE }),
  counts: shop.arrivalStore.counts()
}));

const Sent = z.object({
  name: z.string().min(1).max(250),
  /** A job ticket, as JSON. */
  ticket: z
    .string()
    .max(4000)
    .default('{}')
    .transform((text, context) => {
      try {
        return JSON.parse(text) as unknown;
      } catch {
        context.addIssue('The ticket is not JSON.');
        return z.NEVER;
      }
    })
    .pipe(JobTicket)
});

/** The file is the body itself, so that nothing holds it in memory. */
export const POST = call(
  {
    summary: 'Send a file with a job ticket; with the header Idempotency-Key it is made once, however often it is sent',
    query: Sent
  },
  async ({ shop, query, event }) => {
    const { body, headers } = event.request;
    if (!body) throw new Problem(400, 'There is no file in the request. Send it as the body.');
    const key = headers.get('idempotency-key');
    if (key !== null && !/^[\x21-\x7e]{1,200}$/.test(key))
      throw new Problem(400, 'A key has 1 to 200 signs, none of them a space.');
    const name = query.name.replace(/[\\/\p{Cc}]/gu, ' ').trim() || 'unnamed';
    const id = await shop.arrivals.take(name, query.ticket, body as unknown as AsyncIterable<Uint8Array>, key);
    return shop.arrivalStore.get(id);
  }
);
