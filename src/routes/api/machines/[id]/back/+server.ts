import { z } from 'zod';
import { MachineUrl } from '$lib/server/machines/machines';
import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call(
  { summary: 'Bring back a machine that was put away', body: z.object({ url: MachineUrl.optional() }) },
  ({ shop, event, body }) => shop.machineShelf.bringBack(idOf(event), body.url)
);
