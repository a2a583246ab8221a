import { z } from 'zod';
import { MOST_INKS } from '$core/inks/ink-set';
import { MachineName, MachineUrl } from '$lib/server/machines/machines';
import { call, idOf } from '$lib/server/platform/http/call';

const InkPrice = 'A ml of ink costs 0 to 1,000.';
const Change = z.object({
  name: MachineName.optional(),
  url: MachineUrl.optional(),
  costPerHour: z.number().min(0, 'An hour costs 0 to 10,000.').max(10_000, 'An hour costs 0 to 10,000.').optional(),
  /** Of a printer, by the names of its inks; null for what the shop pays for any. */
  inkPrices: z
    .record(z.string().max(40), z.number({ error: InkPrice }).min(0, InkPrice).max(1000, InkPrice).nullable())
    .refine((prices) => Object.keys(prices).length <= MOST_INKS, `A machine has ${MOST_INKS} inks at most.`)
    .optional()
});

export const PUT = call(
  { summary: 'Say what an hour of a machine costs, or a ml of its inks, what it is called, or where it is now', body: Change },
  async ({ shop, event, body: { name, url, costPerHour, inkPrices } }) => {
    const id = idOf(event);
    if (name !== undefined || url !== undefined) await shop.machineShelf.change(id, { name, url });
    if (costPerHour !== undefined) shop.machines.setCost(id, costPerHour);
    if (inkPrices !== undefined) shop.machines.setInkPrices(id, inkPrices);
    return shop.machines.get(id);
  }
);
export const DELETE = call(
  { summary: 'Delete a machine that nothing was done with; else put it away, with all that is known of it' },
  ({ shop, event }) => shop.machineShelf.remove(idOf(event))
);
