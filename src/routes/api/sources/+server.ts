import { call } from '$lib/server/platform/http/call';
import { bytesOf } from '$lib/server/platform/http/body';

const MOST_BYTES = 13e6;

export const GET = call({ summary: 'Profiles that customers’ colours can be read with' }, ({ shop }) => shop.sources.list());
export const PUT = call({ summary: 'Take a source profile' }, async ({ shop, event }) =>
  shop.sources.take(await bytesOf(event.request, MOST_BYTES))
);
