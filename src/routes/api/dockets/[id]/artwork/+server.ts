import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Newer = z.object({ version: z.int(), artworkId: z.int(), page: z.int().min(0).default(0) });

/** What a new artwork changed: the picture is PNG as a data address. */
export const GET = call({ summary: 'What a docket’s new artwork changed' }, async ({ shop, event }) => {
  const { share, picture } = await shop.pictures.compare(idOf(event));
  return { share, picture: `data:image/png;base64,${Buffer.from(picture).toString('base64')}` };
});
export const PUT = call({ summary: 'Put a new artwork in the place of a docket’s own', body: Newer }, ({ shop, event, body }) =>
  shop.docketEditing.replaceArtwork(idOf(event), body.version, body.artworkId, body.page)
);
export const DELETE = call({ summary: 'Let go of the artwork that was replaced' }, ({ shop, event }) =>
  shop.docketEditing.forgetPrevious(idOf(event))
);
