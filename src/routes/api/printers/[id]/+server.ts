import { z } from 'zod';
import { NetworkPrinter } from '$lib/network-printer';
import { call, idOf } from '$lib/server/platform/http/call';

export const PUT = call(
  {
    summary: 'Change a printer for every program, from the version that was seen',
    body: z.object({ version: z.int(), printer: NetworkPrinter })
  },
  async ({ shop, event, body }) => {
    const kept = shop.networkPrinters.change(idOf(event), body.version, body.printer);
    await shop.printerDoors.settled();
    return kept;
  }
);
export const DELETE = call(
  { summary: 'Take a printer away; what was printed on it stays in the in-tray' },
  async ({ shop, event }) => {
    shop.networkPrinters.remove(idOf(event));
    await shop.printerDoors.settled();
  }
);
