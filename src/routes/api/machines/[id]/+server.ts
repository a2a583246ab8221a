import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Change = z.object({
  costPerHour: z.number().min(0, 'An hour costs 0 to 10,000.').max(10_000, 'An hour costs 0 to 10,000.')
});

export const PUT = call({ summary: 'Say what an hour of a machine costs', body: Change }, ({ shop, event, body }) =>
  shop.machines.setCost(idOf(event), body.costPerHour)
);
