import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Say that a new blade is in a cutter' }, ({ shop, event }) =>
  shop.rolls.newBlade(idOf(event))
);
