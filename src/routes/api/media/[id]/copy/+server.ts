import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'A copy of a media card, to be changed' }, ({ shop, event }) => shop.media.copy(idOf(event)));
