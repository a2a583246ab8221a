import { createReadStream } from 'node:fs';
import { Readable } from 'node:stream';
import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Kind = z.object({ kind: z.enum(['ink', 'gamut', 'proof']), version: z.string().optional() });

export const GET = call(
  {
    summary: 'A map of a docket with its bleed: total ink, colours out of reach, or how it will look',
    query: Kind,
    answers: 'image/png'
  },
  async ({ shop, event, query }) => {
    const path = await shop.pictures.map(idOf(event), query.kind);
    return new Response(Readable.toWeb(createReadStream(path)) as ReadableStream, {
      headers: { 'content-type': 'image/png', 'cache-control': 'private, max-age=60' }
    });
  }
);
