import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Give up a cut whose cutter does not answer' }, ({ shop, event }) =>
  shop.cutting.giveUp(idOf(event))
);
