import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Bring back a printing condition that was put away' }, ({ shop, event }) =>
  shop.conditionEditing.bringBack(idOf(event))
);
