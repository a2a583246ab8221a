import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Print a chart on its machine' }, ({ shop, event }) => {
  shop.chartMaking.print(idOf(event));
  return shop.charts.get(idOf(event));
});
