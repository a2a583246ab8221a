import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Release all runs of a lane that wait' }, ({ shop, event }) =>
  shop.releasing.releaseAll(idOf(event))
);
