import { createReadStream } from 'node:fs';
import { Readable } from 'node:stream';
import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Asked = z.object({
  /** Numbers, with commas. */
  of: z
    .string()
    .max(1000)
    .regex(/^\d{1,7}(,\d{1,7})*$/)
    .transform((list) => list.split(',').map(Number)),
  px: z.coerce.number().int().min(20).max(2400),
  version: z.string().optional()
});

export const GET = call(
  { summary: 'Records without their artwork, one below the other', query: Asked, answers: 'image/png' },
  async ({ shop, event, query }) => {
    const path = await shop.docketRecords.pictures(idOf(event), query.of, query.px);
    return new Response(Readable.toWeb(createReadStream(path)) as ReadableStream, {
      headers: { 'content-type': 'image/png', 'cache-control': 'private, max-age=3600' }
    });
  }
);
