import { call } from '$lib/server/platform/http/call';

const PLAIN = { 'content-type': 'application/json', 'cache-control': 'no-store', vary: 'accept-encoding' };

export const GET = call(
  { summary: 'The Floor: lanes, what lies in them, and the first of the tray' },
  async ({ shop, event }) => {
    if (!/\bgzip\b/.test(event.request.headers.get('accept-encoding') ?? ''))
      return new Response(await shop.floor.text(), { headers: PLAIN });
    return new Response(await shop.floor.packed(), { headers: { ...PLAIN, 'content-encoding': 'gzip' } });
  }
);
