import { call, idOf } from '$lib/server/api';

export const POST = call({ summary: 'Let the camera find the marks' }, ({ shop, event }) => shop.cutting.findMarks(idOf(event)));
