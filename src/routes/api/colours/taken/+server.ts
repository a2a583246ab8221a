import { TakeColours } from '$lib/named-colours';
import { call } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Take the colours of a file that was read', body: TakeColours }, async ({ shop, body }) => ({
  taken: await shop.colourFiles.take(body)
}));
