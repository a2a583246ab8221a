import { call } from '$lib/server/api';

export const GET = call({ summary: 'All lanes: machines, each with the media it is used with' }, ({ shop }) => shop.lanes.list());
