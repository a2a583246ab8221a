import { z } from 'zod';
import { MachineName, MachineUrl } from '$lib/server/machines/machines';
import { call } from '$lib/server/platform/http/call';

const NewMachine = z.object({
  kind: z.enum(['printer', 'cutter', 'instrument']),
  name: MachineName,
  url: MachineUrl
});

export const GET = call({ summary: 'All machines and their state' }, ({ shop }) => shop.machines.list());
export const POST = call({ summary: 'Add a machine', body: NewMachine }, async ({ shop, body }) => {
  const id = shop.machines.add(body.kind, body.name, body.url);
  await shop.machines.lookNow();
  return shop.machines.get(id);
});
