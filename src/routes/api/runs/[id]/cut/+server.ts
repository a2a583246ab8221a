import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Where = z.object({ machineId: z.int().optional() }).optional();

export const POST = call(
  { summary: 'Cut a run out of plain film, without printing it', body: Where },
  ({ shop, event, body }) => ({
    task: shop.plainFilm.cut(idOf(event), body?.machineId)
  })
);
