import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

/** `isWhole`: a person looked that it is not a print that broke off. */
const Order = z.object({ isWhole: z.boolean().default(false) }).optional();

export const POST = call({ summary: 'Let the camera find the marks', body: Order }, ({ shop, event, body }) =>
  shop.cutting.findMarks(idOf(event), body?.isWhole)
);
