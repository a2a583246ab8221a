import { call, idOf } from '$lib/server/api';

export const POST = call({ summary: 'Ask the machine again for what to start from' }, ({ shop, event }) =>
  shop.conditions.startAgain(idOf(event))
);
