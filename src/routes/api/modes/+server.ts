import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'All print modes' }, ({ shop }) => shop.modes.list());
export const PUT = call(
  { summary: 'Pin a print mode, or let go of it', body: z.object({ code: z.string().max(120), pinned: z.boolean() }) },
  ({ shop, body }) => shop.modes.pin(body.code, body.pinned)
);
