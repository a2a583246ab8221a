import { call, idOf } from '$lib/server/api';

export const POST = call({ summary: 'RIP the run as it is now' }, ({ shop, event }) => shop.runs.rip(idOf(event)));
