import { z } from 'zod';
import { KnifeChoice } from '$core/media/knife';
import { call, idOf } from '$lib/server/platform/http/call';

const Order = z.object({ knife: KnifeChoice, all: z.boolean() }).partial().optional();

export const POST = call({ summary: 'Cut what is not cut yet, or all of it', body: Order }, ({ shop, event, body }) =>
  shop.cutting.cut(idOf(event), body)
);
