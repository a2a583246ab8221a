import { call } from '$lib/server/platform/http/call';

export const DELETE = call({ summary: 'Remove a source profile of the shop that nothing is read with' }, ({ shop, event }) =>
  shop.sources.remove(event.params.hash!)
);
