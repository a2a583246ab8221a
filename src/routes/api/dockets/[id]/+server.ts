import { z } from 'zod';
import { DocketDocument } from '$lib/docket-choices';
import { call, idOf, WITH_OUTLINES } from '$lib/server/platform/http/call';
import { Problem } from '$lib/server/platform/problem';

const Change = DocketDocument.partial().extend({
  version: z.int(),
  /** It goes on with the change before: both are taken back together. */
  joins: z.boolean().default(false)
});

export const GET = call({ summary: 'One docket' }, ({ shop, event }) => shop.dockets.get(idOf(event)));
export const PUT = call(
  { summary: 'Keep choices, made from a version', body: Change, most: WITH_OUTLINES },
  async ({ shop, event, body }) => {
    if (body.choices) await shop.tables.ready(body.choices.records);
    const { version, joins, ...change } = body;
    const given = Object.fromEntries(Object.entries(change).filter(([, value]) => value !== undefined));
    return shop.docketEditing.change(idOf(event), version, given, joins);
  }
);
export const DELETE = call({ summary: 'Delete a docket that is in no run' }, ({ shop, event }) => {
  const { runId } = shop.dockets.get(idOf(event));
  if (runId !== null) throw new Problem(409, `This docket is in run ${runId}. Take it out there first.`);
  return shop.docketShelf.remove([idOf(event)]);
});
