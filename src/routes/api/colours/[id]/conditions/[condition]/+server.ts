import { z } from 'zod';
import { OwnInks } from '$lib/named-colours';
import { call, idOf } from '$lib/server/platform/http/call';

export const PUT = call(
  {
    summary: 'Give a named colour inks of its own on a condition, or those of the profile again',
    body: z.object({ inks: OwnInks.nullable() })
  },
  ({ shop, event, body }) => shop.colourInks.byHand(idOf(event), idOf(event, 'condition'), body.inks)
);
export const POST = call(
  { summary: 'What inks would make of a named colour on a condition', body: z.object({ inks: OwnInks }) },
  ({ shop, event, body }) => shop.colourInks.tried(idOf(event), idOf(event, 'condition'), body.inks)
);
