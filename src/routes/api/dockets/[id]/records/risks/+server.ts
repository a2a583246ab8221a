import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'What of a docket’s records is at risk' }, ({ shop, event }) =>
  shop.docketRecords.looked(idOf(event), event.request.signal)
);
