import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call(
  { summary: 'Leave a run at what came out of it: what is left of its equal sheets lies in no run then' },
  ({ shop, event }) => shop.runEditing.leave(idOf(event))
);
