import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Bring a deleted jig back' }, ({ shop, event }) => shop.jigs.bringBack(idOf(event)));
