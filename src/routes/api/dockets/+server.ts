import { z } from 'zod';
import { call } from '$lib/server/api';

export const GET = call({ summary: 'All dockets' }, ({ shop }) => shop.dockets.list());

export const POST = call(
  { summary: 'Make a docket of an artwork page', body: z.object({ artworkId: z.int(), page: z.int().min(0) }) },
  ({ shop, body }) => shop.dockets.add(body.artworkId, body.page)
);
