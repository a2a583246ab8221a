import { z } from 'zod';
import { ARRIVAL_STATES } from '$lib/arrivals';
import { call } from '$lib/server/platform/http/call';

const PAGE = 100;
const Query = z.object({
  states: z
    .string()
    .transform((text) => text.split(','))
    .pipe(z.array(z.enum(ARRIVAL_STATES)))
    .optional(),
  words: z.string().max(200).default(''),
  before: z.coerce.number().int().optional()
});

export const GET = call({ summary: 'The in-tray: what came by itself, the newest first', query: Query }, ({ shop, query }) => ({
  rows: shop.arrivalStore.list({ ...query, most: PAGE }),
  counts: shop.arrivalStore.counts()
}));
