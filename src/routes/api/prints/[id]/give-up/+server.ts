import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'End a print whose machine does not answer' }, ({ shop, event }) =>
  shop.printing.giveUp(idOf(event))
);
