import { call } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Release all runs of all lanes that wait' }, ({ shop }) => shop.releasing.releaseAll());
