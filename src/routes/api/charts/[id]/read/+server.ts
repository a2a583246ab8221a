import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Place = z.object({ strip: z.int().min(0).max(10_000), patch: z.string().max(40).optional() });

export const POST = call(
  { summary: 'Read a strip of a chart, or one patch of it, with the instrument', body: Place },
  ({ shop, event, body }) => shop.chartReading.read(idOf(event), body.strip, body.patch)
);
