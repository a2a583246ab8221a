import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call(
  {
    summary: 'The map of a wall for those who hang it: its picture with seams, numbers and measures, and a table of its panels',
    query: z.object({ version: z.string().max(40).optional() }),
    answers: 'application/pdf'
  },
  async ({ shop, event }) => {
    const { name, bytes } = await shop.panelMaps.pdf(idOf(event));
    return new Response(Buffer.from(bytes), {
      headers: {
        'content-type': 'application/pdf',
        'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`
      }
    });
  }
);

export const POST = call(
  { summary: 'Puts a small print of the map into the run of its wall, in its waste where there is room' },
  ({ shop, event }) => shop.panelMaps.print(idOf(event))
);
