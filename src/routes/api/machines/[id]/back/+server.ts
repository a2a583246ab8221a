import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Bring back a machine that was put away' }, ({ shop, event }) =>
  shop.machineShelf.bringBack(idOf(event))
);
