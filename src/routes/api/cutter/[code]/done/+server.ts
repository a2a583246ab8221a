import { call } from '$lib/server/platform/http/call';
import { Progress } from '$protocol/cutter';

export const POST = call({ summary: 'For cutters: a print is cut to its end', body: Progress }, ({ shop, event, body }) =>
  shop.asking.done(shop.cutterKeys.machineOf(event.request), event.params['code'] ?? '', body)
);
