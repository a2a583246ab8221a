import { MediaCard } from '$core/media/card';
import { call } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'All media cards' }, ({ shop }) => shop.media.list());
export const POST = call(
  { summary: 'A new media card; what is not given is suggested', body: MediaCard.partial() },
  ({ shop, body }) => shop.media.addNew(body)
);
