import { z } from 'zod';
import { WatchedFolder } from '$lib/arrivals';
import { call, idOf } from '$lib/server/platform/http/call';

export const PUT = call(
  {
    summary: 'Change how a folder is watched, from the version that was seen',
    body: z.object({ version: z.int(), folder: WatchedFolder })
  },
  ({ shop, event, body }) => shop.watchedFolders.change(idOf(event), body.version, body.folder)
);
export const DELETE = call({ summary: 'Watch a folder no more; what lies in it stays' }, ({ shop, event }) =>
  shop.watchedFolders.remove(idOf(event))
);
