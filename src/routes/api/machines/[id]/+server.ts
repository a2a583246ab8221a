import { z } from 'zod';
import { MachineName, MachineUrl } from '$lib/server/machines/machines';
import { call, idOf } from '$lib/server/platform/http/call';

const Change = z.object({
  name: MachineName.optional(),
  url: MachineUrl.optional(),
  costPerHour: z.number().min(0, 'An hour costs 0 to 10,000.').max(10_000, 'An hour costs 0 to 10,000.').optional()
});

export const PUT = call(
  { summary: 'Say what an hour of a machine costs, what it is called, or where it is now', body: Change },
  async ({ shop, event, body: { name, url, costPerHour } }) => {
    const id = idOf(event);
    if (name !== undefined || url !== undefined) await shop.machineShelf.change(id, { name, url });
    if (costPerHour !== undefined) shop.machines.setCost(id, costPerHour);
    return shop.machines.get(id);
  }
);
export const DELETE = call(
  { summary: 'Delete a machine that nothing was done with; else put it away, with all that is known of it' },
  ({ shop, event }) => shop.machineShelf.remove(idOf(event))
);
