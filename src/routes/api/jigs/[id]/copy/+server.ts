import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'A copy of a jig' }, ({ shop, event }) => shop.jigs.copy(idOf(event)));
