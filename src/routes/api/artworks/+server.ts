import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';
import { Problem } from '$lib/server/platform/problem';

const Upload = z.object({
  name: z.string().min(1).max(250),
  /** What the sender calls the upload, where it may break off and go on: how much has come, and how much there is. */
  upload: z.string().max(64).optional(),
  from: z.coerce.number().int().min(0).default(0),
  bytes: z.coerce.number().int().min(0).optional()
});

/** The file is the body itself, so that nothing holds it in memory. */
export const POST = call(
  { summary: 'Take in a file, or the rest of one: the request body is the file', query: Upload },
  async ({ shop, query, event }) => {
    const { body } = event.request;
    if (!body)
      throw new Problem(
        400,
        'There is no file in the request. Send it as the body, with the content type application/octet-stream.'
      );
    const name = query.name.replace(/[\\/\p{Cc}]/gu, ' ').trim() || 'unnamed';
    const source = body as unknown as AsyncIterable<Uint8Array>;
    const { upload: key, from, bytes } = query;
    if (key === undefined || bytes === undefined) return shop.artworks.take(name, source);
    const artwork = await shop.artworks.takePart(name, { key, from, bytes }, source);
    if (!artwork) throw new Problem(409, 'Less came than there is. Ask how much, and send the rest.');
    return artwork;
  }
);
