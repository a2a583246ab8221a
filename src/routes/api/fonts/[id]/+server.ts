import { call, idOf } from '$lib/server/platform/http/call';

export const DELETE = call({ summary: 'Remove a font of the shop' }, ({ shop, event }) => shop.fonts.remove(idOf(event)));
