import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call(
  { summary: 'A place of the roll as the cutter’s camera sees it', answers: 'image/png' },
  async ({ shop, event }) =>
    new Response(new Uint8Array(await shop.rolls.picture(idOf(event), idOf(event, 'place'))), {
      headers: { 'content-type': 'image/png', 'cache-control': 'no-store' }
    })
);
