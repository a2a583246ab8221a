import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Where = z.object({ machineId: z.int().optional() }).optional();

export const POST = call(
  { summary: 'Load the print into a cutter, the first one where none is said', body: Where },
  ({ shop, event, body }) => shop.cutting.load(idOf(event), body?.machineId)
);
