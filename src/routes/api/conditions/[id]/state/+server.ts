import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call(
  { summary: 'Go back to an earlier state of a condition, or forth again', body: z.object({ seq: z.int().min(1) }) },
  ({ shop, event, body }) => shop.conditions.goTo(idOf(event), body.seq)
);
