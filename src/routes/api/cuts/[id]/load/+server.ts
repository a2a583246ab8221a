import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Load the print into the cutter' }, ({ shop, event }) => shop.cutting.load(idOf(event)));
