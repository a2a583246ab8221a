import { call, idOf } from '$lib/server/api';

export const POST = call({ summary: 'Go on where a print broke off' }, ({ shop, event }) => shop.printing.goOn(idOf(event)));
