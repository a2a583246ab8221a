import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'A new key for a cutter’s computer; the one before is good no more' }, ({ shop, event }) => ({
  key: shop.cutterKeys.make(shop.machines.cutter(idOf(event)).id, 'given')
}));
