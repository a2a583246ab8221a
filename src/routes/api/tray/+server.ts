import { call } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Send what waits in the tray to the lanes of its media, the oldest first' }, ({ shop }) =>
  shop.layingOut.addWaiting()
);
