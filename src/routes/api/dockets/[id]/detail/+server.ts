import { readFile } from 'node:fs/promises';
import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call(
  {
    summary:
      'How much there is to see on a docket, place by place: columns and rows (32 bits each), then a byte a place, 255 for lettering and the like',
    query: z.object({ version: z.string().max(40).optional() }),
    answers: 'application/octet-stream'
  },
  async ({ shop, event }) => {
    const path = await shop.pictures.detail(idOf(event));
    return new Response(await readFile(path), {
      headers: { 'content-type': 'application/octet-stream', 'cache-control': 'private, max-age=60' }
    });
  }
);
