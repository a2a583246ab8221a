import { createReadStream } from 'node:fs';
import { Readable } from 'node:stream';
import { z } from 'zod';
import { PieceRequest } from '$lib/docket-choices';
import { call, idOf } from '$lib/server/platform/http/call';
import { jsonText } from '$lib/server/platform/http/json-text';

const Piece = z.object({
  page: z.coerce.number().int().min(0).default(0),
  px: z.coerce
    .number()
    .pipe(z.union([z.literal(1200), z.literal(2400), z.literal(4800)]))
    .default(1200),
  piece: jsonText('The piece', 50_000).pipe(PieceRequest)
});

export const GET = call(
  { summary: 'A picture of a page as it will print, bleed included', query: Piece, answers: 'image/png' },
  async ({ shop, event, query }) => {
    const path = await shop.pictures.piece(idOf(event), query.page, query.px, query.piece);
    return new Response(Readable.toWeb(createReadStream(path)) as ReadableStream, {
      headers: { 'content-type': 'image/png', 'cache-control': 'private, max-age=600' }
    });
  }
);
