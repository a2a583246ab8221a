import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Ask the machine again for what to start from' }, ({ shop, event }) =>
  shop.conditionEditing.startAgain(idOf(event))
);
