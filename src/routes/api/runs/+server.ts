import { z } from 'zod';
import { call } from '$lib/server/api';

export const GET = call({ summary: 'All runs' }, ({ shop }) => shop.runs.list());

export const POST = call(
  {
    summary: 'Put dockets into the open run of their condition, or a new one',
    body: z.object({ docketIds: z.array(z.int()).min(1).max(500) })
  },
  ({ shop, body }) => ({ id: shop.runs.add(body.docketIds) })
);
