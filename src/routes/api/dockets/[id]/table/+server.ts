import { z } from 'zod';
import { DELIMITERS, ENCODINGS } from '$core/records/table-choices';
import { TableChange } from '$lib/docket-choices';
import { bytesOf } from '$lib/server/platform/http/body';
import { call, idOf, WITH_OUTLINES } from '$lib/server/platform/http/call';
import { MOST_TABLE_BYTES } from '$lib/server/records/tables';

const Asked = z.object({
  from: z.coerce.number().int().min(0).default(0),
  words: z.string().max(200).default(''),
  /** Numbers of records, with commas. */
  records: z
    .string()
    .max(20_000)
    .regex(/^\d+(,\d+)*$/)
    .transform((list) => list.split(',').map(Number))
    .optional()
});
const Taken = z.object({
  version: z.coerce.number().int(),
  name: z.string().min(1).max(200),
  encoding: z.enum(ENCODINGS).optional(),
  delimiter: z.enum(DELIMITERS).optional(),
  heading: z
    .enum(['yes', 'no'])
    .transform((said) => said === 'yes')
    .optional(),
  sheet: z.string().max(200).optional(),
  key: z.string().max(100).optional()
});

export const GET = call({ summary: 'Rows of a docket’s table', query: Asked }, ({ shop, event, query }) =>
  shop.docketRecords.rows(idOf(event), query.from, query)
);
export const PUT = call(
  { summary: 'Take a table: text, a spreadsheet, or JSON; the file is the body', query: Taken },
  async ({ shop, event, query: { version, name, key, ...how } }) => {
    const bytes = await bytesOf(event.request, MOST_TABLE_BYTES);
    return shop.docketRecords.take(idOf(event), version, { bytes, name, how, key });
  }
);
export const POST = call(
  { summary: 'Change a docket’s table', body: TableChange, most: WITH_OUTLINES },
  ({ shop, event, body: { version, edit } }) => shop.docketRecords.edit(idOf(event), version, edit)
);
