import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call(
  { summary: 'A picture of what came out, 90 pixels an inch', answers: 'image/png' },
  async ({ shop, event }) => {
    const png = await shop.printing.output(idOf(event));
    return new Response(new Uint8Array(png), { headers: { 'content-type': 'image/png', 'cache-control': 'no-store' } });
  }
);
