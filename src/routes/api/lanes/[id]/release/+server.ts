import { call, idOf } from '$lib/server/api';

export const POST = call({ summary: 'Release all runs of a lane that wait' }, ({ shop, event }) =>
  shop.releasing.releaseAll(idOf(event))
);
