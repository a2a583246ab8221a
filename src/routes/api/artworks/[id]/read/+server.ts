import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Read an artwork again that could not be read' }, ({ shop, event }) =>
  shop.artworks.read(idOf(event))
);
