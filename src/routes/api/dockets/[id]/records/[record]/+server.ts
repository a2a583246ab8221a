import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'When a record of a docket was printed' }, ({ shop, event }) =>
  shop.prints.ofRecord(idOf(event), idOf(event, 'record'))
);
