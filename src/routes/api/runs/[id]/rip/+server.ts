import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'RIP the run as it is now' }, ({ shop, event }) => shop.ripping.rip(idOf(event)));
