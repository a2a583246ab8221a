import { z } from 'zod';
import { MOST_MM } from '$core/artwork/choices';
import { call, idOf } from '$lib/server/platform/http/call';

const Place = z.object({
  x: z
    .number()
    .min(-1000)
    .max(MOST_MM + 1000),
  y: z
    .number()
    .min(-1000)
    .max(MOST_MM + 1000)
});

export const GET = call(
  {
    summary:
      'The spot colours of a docket and the flat colours that it changes: what they print in, and what its condition makes of that'
  },
  ({ shop, event }) => shop.docketColours.of(idOf(event))
);
export const POST = call(
  { summary: 'The colour at a place of a docket, mm of its finished size, as its file has it', body: Place },
  async ({ shop, event, body }) => ({ lab: await shop.docketColours.at(idOf(event), body.x, body.y) })
);
