import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call(
  { summary: 'Correct a named colour by what was read of its print', body: z.object({ chartId: z.int().min(1) }) },
  ({ shop, event, body }) => shop.colourInks.correct(idOf(event), body.chartId)
);
