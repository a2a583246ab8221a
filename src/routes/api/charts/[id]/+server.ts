import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'A chart with its readings' }, ({ shop, event }) => shop.charts.get(idOf(event)));
