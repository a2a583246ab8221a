import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Bring back a media that was put away' }, ({ shop, event }) =>
  shop.media.bringBack(idOf(event))
);
