import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'The newest charts of a named colour, by condition' }, ({ shop, event }) =>
  shop.charts.ofColour(idOf(event))
);
export const POST = call(
  {
    summary: 'Lay out a chart of a named colour on a condition: its solid for reading, or its neighbours for choosing',
    body: z.object({ conditionId: z.int().min(1), kind: z.enum(['colour', 'neighbours']) })
  },
  ({ shop, event, body }) => shop.colourInks.chart(idOf(event), body.conditionId, body.kind)
);
