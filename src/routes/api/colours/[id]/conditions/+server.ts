import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call(
  { summary: 'A named colour on every condition: inks, what they come to, and ΔE00 left' },
  ({ shop, event }) => shop.colourInks.on(idOf(event))
);
