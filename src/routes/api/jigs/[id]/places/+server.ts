import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'The places of a jig, as runs are placed in them' }, ({ shop, event }) =>
  shop.jigs.stock(idOf(event))
);
