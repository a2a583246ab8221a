import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'All runs' }, ({ shop }) => shop.runs.list());

export const POST = call(
  {
    summary: 'Put dockets into the open runs of their lanes, or new ones',
    body: z.object({ docketIds: z.array(z.int()).min(1).max(500), laneId: z.int().optional() })
  },
  ({ shop, body }) => {
    const ids = shop.runEditing.add(body.docketIds, body.laneId);
    return { id: ids[0], ids };
  }
);
