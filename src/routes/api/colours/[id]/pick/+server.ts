import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Picked = z.object({ chartId: z.int().min(1), code: z.string().max(20), as: z.enum(['condition', 'colour']) });

export const POST = call(
  { summary: 'Take the patch that was chosen on a sheet of neighbours, by its code', body: Picked },
  ({ shop, event, body }) => shop.colourInks.pick(idOf(event), body.chartId, body.code, body.as)
);
