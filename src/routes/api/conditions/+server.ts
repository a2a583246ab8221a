import { z } from 'zod';
import { call } from '$lib/server/api';
import { Problem } from '$lib/server/problem';

const NewCondition = z.object({
  machineId: z.int(),
  media: z.string().trim().min(1, 'A media needs a name.').max(80),
  surface: z.enum(['gloss', 'matt']),
  costPerM2: z.number().min(0, 'The cost must not be below 0.').max(10_000)
});

export const GET = call({ summary: 'All printing conditions' }, ({ shop }) => shop.conditions.list());
export const POST = call({ summary: 'Add a media for a machine; its profile is built', body: NewCondition }, ({ shop, body }) => {
  const machine = shop.machines.get(body.machineId);
  if (machine.kind !== 'printer') throw new Problem(422, `${machine.name} does not print.`);
  const media = shop.conditions.addMedia(body.media, body.surface, body.costPerM2);
  return shop.conditions.get(shop.conditions.add(machine.id, media, { name: '720 × 720, 8 passes', dpi: 720, passes: 8 }));
});
