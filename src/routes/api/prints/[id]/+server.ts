import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'One print' }, ({ shop, event }) => shop.prints.get(idOf(event)));
export const DELETE = call({ summary: 'Cancel a print' }, ({ shop, event }) => shop.printing.cancel(idOf(event)));
