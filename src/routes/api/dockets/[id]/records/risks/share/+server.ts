import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'How much of a docket’s records was looked at, 0 to 1' }, ({ shop, event }) =>
  shop.docketRecords.lookedShare(idOf(event))
);
