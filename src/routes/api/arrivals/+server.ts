import { z } from 'zod';
import { ARRIVAL_STATES, CameFrom, JobTicket } from '$lib/arrivals';
import type { Shop } from '$lib/server/app/shop';
import type { Stored, StoredTable } from '$lib/server/automation/arrivals';
import { Problem } from '$lib/server/platform/problem';
import { call } from '$lib/server/platform/http/call';
import { isForm, partsOf } from '$lib/server/platform/http/form';
import { jsonText } from '$lib/server/platform/http/json-text';

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

/** A job ticket, as JSON. */
const Ticket = jsonText('The ticket', 4000).pipe(JobTicket);
/** In a form, they are parts of it. */
const Sent = z.object({ name: z.string().min(1).max(250).optional(), ticket: z.string().default('{}').pipe(Ticket) });

/** The file is the body itself, or a part of a form beside its ticket and its table; nothing holds it in memory. */
export const POST = call(
  {
    summary:
      'Send a file with a job ticket, and a table of its records; with the header Idempotency-Key it is made once, however often it is sent',
    query: Sent
  },
  async ({ shop, query, event: { request } }) => {
    const key = request.headers.get('idempotency-key');
    if (key !== null && !/^[\x21-\x7e]{1,200}$/.test(key))
      throw new Problem(400, 'A key has 1 to 200 signs, none of them a space.');
    if (isForm(request)) return shop.arrivalStore.get(await takeForm(shop, request, query.ticket, key));
    if (!request.body) throw new Problem(400, 'There is no file in the request. Send it as the body, or in a form.');
    if (query.name === undefined) throw new Problem(422, 'Say what the file is called, as ?name=Sign.pdf.');
    const source = request.body as unknown as AsyncIterable<Uint8Array>;
    return shop.arrivalStore.get(await shop.arrivals.take(plainName(query.name), query.ticket, source, key));
  }
);

/** Its parts in any order: nothing is made before all of it is here. */
async function takeForm({ arrivals }: Shop, request: Request, asked: JobTicket, key: string | null): Promise<number> {
  let ticket = asked;
  let table: StoredTable | undefined;
  let file: (Stored & { name: string }) | undefined;
  for await (const part of partsOf(request)) {
    const isText = 'text' in part;
    if (isText && part.name === 'ticket') ticket = ticketOf(part.text);
    else if (!isText && part.name === 'table' && !table) table = await arrivals.storeTable(plainName(part.fileName), part.source);
    else if (!isText && part.name === 'file' && !file)
      file = { name: plainName(part.fileName), ...(await arrivals.store(part.source)) };
    else throw new Problem(422, `A form has one file, a ticket and one table; this one has another part ${part.name}.`);
  }
  if (!file) throw new Problem(400, 'There is no file in the form. Its parts are file, ticket and table.');
  return arrivals.take(file.name, ticket, file, key, table);
}

function ticketOf(text: string): JobTicket {
  const read = Ticket.safeParse(text);
  if (!read.success) throw new Problem(422, read.error.issues[0]?.message ?? 'The ticket is not as it should be.');
  return read.data;
}

const plainName = (name: string): string =>
  name
    .replace(/[\\/\p{Cc}]/gu, ' ')
    .trim()
    .slice(0, 250) || 'unnamed';
