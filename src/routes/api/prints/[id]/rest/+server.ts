import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Order = z.object({ request: z.uuid().optional() });

export const POST = call({ summary: 'Go on where a print broke off', body: Order }, ({ shop, event, body }) =>
  shop.printing.goOn(idOf(event), body.request)
);
