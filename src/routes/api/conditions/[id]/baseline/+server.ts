import { bytesOf } from '$lib/server/platform/http/body';
import { call, idOf } from '$lib/server/platform/http/call';

const MOST_BYTES = 8e6;

export const GET = call({ summary: 'The baseline of a condition as CGATS', answers: 'text/plain' }, ({ shop, event }) => {
  const id = idOf(event);
  return new Response(shop.watch.file(id), {
    headers: { 'content-type': 'text/plain; charset=utf-8', 'content-disposition': `attachment; filename="baseline-${id}.txt"` }
  });
});
export const PUT = call({ summary: 'Take a baseline from CGATS with inks and L*a*b*' }, async ({ shop, event }) =>
  shop.watch.load(idOf(event), new TextDecoder('latin1').decode(await bytesOf(event.request, MOST_BYTES)))
);
