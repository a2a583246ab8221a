import { WatchedFolder } from '$lib/arrivals';
import { call } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'Watched folders, and how they are' }, ({ shop }) => ({
  folders: shop.watchedFolders.list(),
  states: shop.folderWatching.states()
}));
export const POST = call({ summary: 'Watch a folder', body: WatchedFolder }, ({ shop, body }) => shop.watchedFolders.add(body));
