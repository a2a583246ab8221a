import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call(
  { summary: 'Ink, reach of colours and what lies on the cut lines, by drawing the docket in its inks' },
  ({ shop, event }) => shop.pictures.measured(idOf(event))
);
