import { z } from 'zod';
import { ChartRequest } from '$lib/calibration';
import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call(
  {
    summary: 'Lay out a chart and have its plates made; or only say how large it would be',
    body: ChartRequest,
    query: z.object({ only: z.literal('size').optional() })
  },
  ({ shop, event, body, query }) =>
    query.only === 'size' ? shop.chartMaking.preview(idOf(event), body) : shop.chartMaking.make(idOf(event), body)
);
