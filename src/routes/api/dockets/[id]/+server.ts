import { z } from 'zod';
import { DocketChoices } from '$lib/model';
import { call, idOf } from '$lib/server/api';

const Change = z.object({
  version: z.int(),
  name: z.string().trim().min(1, 'A docket needs a name.').max(120).optional(),
  customer: z.string().max(120).optional(),
  choices: DocketChoices.optional()
});

export const GET = call({ summary: 'One docket' }, ({ shop, event }) => shop.dockets.get(idOf(event)));
export const PUT = call({ summary: 'Keep choices, made from a version', body: Change }, ({ shop, event, body }) => {
  const { version, ...change } = body;
  return shop.dockets.change(idOf(event), version, change);
});
export const DELETE = call({ summary: 'Delete a docket that is in no run' }, ({ shop, event }) =>
  shop.dockets.remove(idOf(event))
);
