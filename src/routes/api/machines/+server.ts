import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';

const NewMachine = z.object({
  kind: z.enum(['printer', 'cutter', 'instrument']),
  name: z.string().trim().min(1, 'A machine needs a name.').max(60),
  url: z.url({ protocol: /^http$/, error: 'The address looks like http://192.168.1.20:631' })
});

export const GET = call({ summary: 'All machines and their state' }, ({ shop }) => shop.machines.list());
export const POST = call({ summary: 'Add a machine', body: NewMachine }, async ({ shop, body }) => {
  const id = shop.machines.add(body.kind, body.name, body.url.replace(/\/$/, ''));
  await shop.machines.lookNow();
  return shop.machines.get(id);
});
