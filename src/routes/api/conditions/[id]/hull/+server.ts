import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'The hull of a condition’s gamut' }, ({ shop, event }) => shop.calibration.hull(idOf(event)));
