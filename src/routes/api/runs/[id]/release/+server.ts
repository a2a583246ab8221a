import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call(
  { summary: 'Let a run print as soon as its media is loaded and the machine is free' },
  ({ shop, event }) => shop.ripping.release(idOf(event))
);
export const DELETE = call({ summary: 'Take a release back' }, ({ shop, event }) => shop.ripping.unrelease(idOf(event)));
