import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Cut it' }, ({ shop, event }) => shop.cutting.cut(idOf(event)));
