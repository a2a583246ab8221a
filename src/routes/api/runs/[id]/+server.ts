import { z } from 'zod';
import { Pin, RunRule } from '$lib/run-rule';
import { call, idOf, WITH_OUTLINES } from '$lib/server/platform/http/call';

const ids = z
  .array(z.int())
  .max(500)
  .transform((all) => [...new Set(all)])
  .optional();
const Change = z.object({
  version: z.int(),
  rule: RunRule.optional(),
  docketIds: ids,
  held: ids,
  pins: z.array(Pin).max(5000, 'At most 5000 copies can be pinned.').optional()
});

export const GET = call({ summary: 'One run' }, ({ shop, event }) => shop.runs.get(idOf(event)));
export const PUT = call(
  { summary: 'Change the rule or the dockets of a run', body: Change, most: WITH_OUTLINES },
  ({ shop, event, body }) => {
    const { version, ...change } = body;
    return shop.runEditing.change(idOf(event), version, change);
  }
);
export const DELETE = call({ summary: 'Delete a run that was not printed' }, ({ shop, event }) =>
  shop.runEditing.remove(idOf(event))
);
