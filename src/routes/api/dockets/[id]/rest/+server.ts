import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Lay out what of a divided docket lies in no run' }, ({ shop, event }) => ({
  id: shop.layingOut.addRest(idOf(event))
}));
