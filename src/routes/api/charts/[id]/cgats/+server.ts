import { call, idOf } from '$lib/server/platform/http/call';
import { bytesOf } from '$lib/server/platform/http/body';

const MOST_BYTES = 8e6;

export const GET = call({ summary: 'The readings of a chart as CGATS', answers: 'text/plain' }, ({ shop, event }) => {
  const id = idOf(event);
  return new Response(shop.charts.cgats(id), {
    headers: { 'content-type': 'text/plain; charset=utf-8', 'content-disposition': `attachment; filename="chart-C${id}.txt"` }
  });
});
export const PUT = call({ summary: 'Load the readings of a chart from CGATS' }, async ({ shop, event }) =>
  shop.chartReading.load(idOf(event), new TextDecoder('latin1').decode(await bytesOf(event.request, MOST_BYTES)))
);
