import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';
import { bytesOf } from '$lib/server/platform/http/body';
import { jsonText } from '$lib/server/platform/http/json-text';

const MOST_BYTES = 200e6;
const Ids = z.object({ ids: z.string().regex(/^\d+(,\d+)*$/, 'Say which cards, as ids=3,4.') });
const Choices = z
  .array(
    z.object({ index: z.int().min(0), replace: z.boolean() }),
    'Say which cards to take: their places in the file, and whether they replace.'
  )
  .min(1, 'Choose a card to take.')
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
    query: z.object({ take: jsonText('What to take', 20_000).pipe(Choices).optional() })
  },
  async ({ shop, event, query }) => {
    const bytes = await bytesOf(event.request, MOST_BYTES);
    return query.take ? shop.cardFiles.take(bytes, query.take) : shop.cardFiles.look(bytes);
  }
);
