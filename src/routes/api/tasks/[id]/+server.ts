import { call, idOf } from '$lib/server/platform/http/call';

export const DELETE = call({ summary: 'Cancel a task that is waiting or at work' }, ({ shop, event }) =>
  shop.tasks.cancel(idOf(event))
);
