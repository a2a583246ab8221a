import { LaneChange } from '$lib/run-rule';
import { call, idOf } from '$lib/server/platform/http/call';

export const PUT = call(
  { summary: 'Change how a lane lays out, prints and releases', body: LaneChange },
  ({ shop, event, body }) => shop.lanes.change(idOf(event), body)
);
