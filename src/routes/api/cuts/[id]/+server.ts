import { z } from 'zod';
import { KnifeChoice } from '$core/media/knife';
import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'One cut task, and what has been cut of it' }, async ({ shop, event }) => {
  const id = idOf(event);
  return { ...(await shop.cutPaths.detail(id)), asCut: await shop.cutting.asCut(id) };
});
export const PUT = call({ summary: 'Set the knife', body: z.object({ knife: KnifeChoice }) }, ({ shop, event, body }) =>
  shop.cuts.setKnife(idOf(event), body.knife)
);
