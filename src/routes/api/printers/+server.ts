import { NetworkPrinter } from '$lib/network-printer';
import { call } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'Printers for every program, and how they are' }, ({ shop }) => ({
  printers: shop.networkPrinters.list(),
  states: shop.printerDoors.states()
}));
export const POST = call({ summary: 'Make a printer for every program', body: NetworkPrinter }, async ({ shop, body }) => {
  const kept = shop.networkPrinters.add(body);
  await shop.printerDoors.settled();
  return kept;
});
