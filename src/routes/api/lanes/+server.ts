import { call } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'All lanes: machines, each with the media it is used with' }, ({ shop }) => shop.lanes.list());
