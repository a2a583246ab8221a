import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'One artwork with its facts' }, ({ shop, event }) => shop.artworks.get(idOf(event)));
export const DELETE = call({ summary: 'Delete an artwork that no docket uses' }, ({ shop, event }) =>
  shop.artworks.remove(idOf(event))
);
