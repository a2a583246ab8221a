import { createReadStream } from 'node:fs';
import { Readable } from 'node:stream';
import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Size = z.object({
  px: z.coerce
    .number()
    .pipe(z.union([z.literal(240), z.literal(1200)]))
    .default(240),
  /** As it reads, where it is printed mirrored. */
  reads: z.literal('yes').optional(),
  version: z.string().optional()
});

export const GET = call(
  { summary: 'A picture of a docket as it will print, bleed included', query: Size, answers: 'image/png' },
  async ({ shop, event, query }) => {
    const path = await shop.pictures.docket(idOf(event), query.px, query.reads === 'yes');
    return new Response(Readable.toWeb(createReadStream(path)) as ReadableStream, {
      headers: { 'content-type': 'image/png', 'cache-control': 'private, max-age=60' }
    });
  }
);
