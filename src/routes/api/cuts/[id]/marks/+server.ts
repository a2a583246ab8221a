import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Let the camera find the marks' }, ({ shop, event }) => shop.cutting.findMarks(idOf(event)));
