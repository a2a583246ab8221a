import { readFile } from 'node:fs/promises';
import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const PROOF_PX = 1600;
const What = z.object({ adjusted: z.enum(['yes', 'no']).default('yes'), version: z.string().max(40).optional() });

export const GET = call(
  {
    summary:
      'A docket in the inks of its condition before its tone curves: width and height (32 bits each), then four bytes a pixel',
    query: What,
    answers: 'application/octet-stream'
  },
  async ({ shop, event, query }) => {
    const path = await shop.pictures.inks(idOf(event), PROOF_PX, query.adjusted === 'yes');
    return new Response(await readFile(path), {
      headers: { 'content-type': 'application/octet-stream', 'content-encoding': 'gzip', 'cache-control': 'private, max-age=60' }
    });
  }
);
