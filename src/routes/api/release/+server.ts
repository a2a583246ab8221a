import { call } from '$lib/server/api';

export const POST = call({ summary: 'Release all runs of all lanes that wait' }, ({ shop }) => shop.releasing.releaseAll());
