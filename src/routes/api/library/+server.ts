import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'What the media library offers' }, ({ shop }) => shop.library.offers());
export const POST = call(
  { summary: 'Take a card of the media library, or its newer version', body: z.object({ id: z.string().max(100) }) },
  ({ shop, body }) => shop.library.take(body.id)
);
