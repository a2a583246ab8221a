import { createReadStream } from 'node:fs';
import { Readable } from 'node:stream';
import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Size = z.object({
  page: z.coerce.number().int().min(0).default(0),
  width: z.coerce
    .number()
    .pipe(z.union([z.literal(240), z.literal(1200)]))
    .default(240)
});

export const GET = call(
  { summary: 'A picture of a page without its cut lines', query: Size, answers: 'image/png' },
  async ({ shop, event, query }) => {
    const path = await shop.pictures.page(idOf(event), query.page, query.width);
    return new Response(Readable.toWeb(createReadStream(path)) as ReadableStream, {
      headers: { 'content-type': 'image/png', 'cache-control': 'private, max-age=60' }
    });
  }
);
