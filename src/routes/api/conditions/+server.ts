import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';

const NewCondition = z.object({ machineId: z.int(), mediaId: z.int(), mode: z.string().min(1).max(120) });

export const GET = call({ summary: 'All printing conditions' }, ({ shop }) => shop.conditions.list());
export const POST = call(
  { summary: 'Add a printing condition: a media on a machine in a print mode', body: NewCondition },
  ({ shop, body }) => shop.conditions.get(shop.conditionEditing.add(body.machineId, body.mediaId, shop.modes.get(body.mode)))
);
