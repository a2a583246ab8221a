import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';
import { Problem } from '$lib/server/platform/problem';

export const GET = call({ summary: 'All artwork' }, ({ shop }) => shop.artworks.list());

/** The file is the body itself, so that nothing holds it in memory. */
export const POST = call(
  { summary: 'Take in a file: the request body is the file', query: z.object({ name: z.string().min(1).max(250) }) },
  async ({ shop, query, event }) => {
    const { body } = event.request;
    if (!body)
      throw new Problem(
        400,
        'There is no file in the request. Send it as the body, with the content type application/octet-stream.'
      );
    const name = query.name.replace(/[\\/\p{Cc}]/gu, ' ').trim() || 'unnamed';
    return shop.artworks.take(name, body as unknown as AsyncIterable<Uint8Array>);
  }
);
