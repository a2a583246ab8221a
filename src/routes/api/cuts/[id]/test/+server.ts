import { z } from 'zod';
import { TOOLS } from '$core/artwork/roles';
import { KnifeChoice } from '$core/media/knife';
import { call, idOf } from '$lib/server/platform/http/call';

const Order = z.object({ tool: z.enum(TOOLS), knife: KnifeChoice.optional() });

export const POST = call({ summary: 'Cut a square and a triangle in the waste', body: Order }, ({ shop, event, body }) =>
  shop.cutting.test(idOf(event), body.tool, body.knife)
);
