import { z } from 'zod';
import { WAYS } from '$lib/arrivals';
import { call, idOf } from '$lib/server/platform/http/call';

const Body = z.discriminatedUnion('act', [
  z.object({ act: z.literal('again'), recipeId: z.int().nullable().optional(), way: z.enum(WAYS).optional() }),
  z.object({ act: z.literal('undo') }),
  z.object({ act: z.literal('settle') })
]);

export const POST = call(
  { summary: 'Make what came again, take back what was made of it, or say that it is seen to', body: Body },
  ({ shop, event, body }) => {
    const id = idOf(event);
    if (body.act === 'again') shop.arrivals.again(id, body);
    else if (body.act === 'undo') shop.arrivals.undo(id);
    else shop.arrivals.settle(id);
  }
);
