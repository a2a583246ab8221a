import { call } from '$lib/server/platform/http/call';
import { Progress } from '$protocol/cutter';

export const POST = call({ summary: 'For cutters: how many strokes are made', body: Progress }, ({ shop, event, body }) =>
  shop.asking.progress(shop.cutterKeys.machineOf(event.request), event.params['code'] ?? '', body)
);
