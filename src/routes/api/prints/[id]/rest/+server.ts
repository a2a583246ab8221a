import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Go on where a print broke off' }, ({ shop, event }) => shop.printing.goOn(idOf(event)));
