import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Bring a deleted recipe back' }, ({ shop, event }) => shop.recipes.bringBack(idOf(event)));
