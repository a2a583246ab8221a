import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';
import { bytesOf } from '$lib/server/platform/http/body';
import { Problem } from '$lib/server/platform/problem';

const MOST_BYTES = 200e6;
const Ids = z.object({ ids: z.string().regex(/^\d+(,\d+)*$/, 'Say which cards, as ids=3,4.') });
const Choices = z
  .array(z.object({ index: z.int().min(0), replace: z.boolean() }))
  .min(1)
  .max(1000);

export const GET = call(
  { summary: 'Media cards as one file, with their conditions', query: Ids, answers: 'application/zip' },
  async ({ shop, query }) => {
    const bytes = await shop.cardFiles.write(query.ids.split(',').map(Number));
    return new Response(bytes, {
      headers: { 'content-type': 'application/zip', 'content-disposition': 'attachment; filename="media-cards.zip"' }
    });
  }
);

export const PUT = call(
  {
    summary: 'What a file of media cards would bring; with `take`, the cards are taken',
    query: z.object({ take: z.string().max(20_000).optional() })
  },
  async ({ shop, event, query }) => {
    const bytes = await bytesOf(event.request, MOST_BYTES);
    if (query.take === undefined) return shop.cardFiles.look(bytes);
    let given: unknown;
    try {
      given = JSON.parse(query.take);
    } catch {
      throw new Problem(400, 'What to take is not JSON.');
    }
    const choices = Choices.safeParse(given);
    if (!choices.success) throw new Problem(422, 'Say which cards to take: their places in the file, and whether they replace.');
    return shop.cardFiles.take(bytes, choices.data);
  }
);
