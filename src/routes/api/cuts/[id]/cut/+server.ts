import { call, idOf } from '$lib/server/api';

export const POST = call({ summary: 'Cut it' }, ({ shop, event }) => shop.cutting.cut(idOf(event)));
