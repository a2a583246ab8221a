import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call(
  { summary: 'Keep what came out whole of a print that broke off, and put the rest of its run into another' },
  async ({ shop, event }) => ({ runId: await shop.partPrints.keep(idOf(event)) })
);
