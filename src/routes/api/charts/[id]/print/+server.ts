import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Print a chart on its machine' }, async ({ shop, event }) => {
  await shop.chartMaking.print(idOf(event));
  return shop.charts.get(idOf(event));
});
