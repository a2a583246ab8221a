import { call } from '$lib/server/platform/http/call';
import { Claim } from '$protocol/cutter';

export const POST = call(
  { summary: 'For cutters: take a print to be cut, by the marks that are seen', body: Claim },
  ({ shop, event, body }) => shop.asking.claim(shop.cutterKeys.machineOf(event.request), event.params['code'] ?? '', body)
);
