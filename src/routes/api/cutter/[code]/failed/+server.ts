import { call } from '$lib/server/platform/http/call';
import { Failed } from '$protocol/cutter';

export const POST = call(
  { summary: 'For cutters: a print is not cut to its end, and why', body: Failed },
  ({ shop, event, body }) => shop.asking.failed(shop.cutterKeys.machineOf(event.request), event.params['code'] ?? '', body)
);
