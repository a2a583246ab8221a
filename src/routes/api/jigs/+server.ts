import { Jig } from '$core/layout/jig';
import { call, WITH_OUTLINES } from '$lib/server/platform/http/call';
import { z } from 'zod';

export const GET = call({ summary: 'Jigs: what things lie in on a bed' }, ({ shop }) => shop.jigs.list());
export const POST = call(
  {
    summary: 'A new jig: one to begin with, one that is given, or one from a file that was written here',
    body: z.object({ jig: Jig, file: z.unknown() }).partial(),
    most: WITH_OUTLINES
  },
  ({ shop, body: { jig, file } }) => (file === undefined ? shop.jigs.add(jig) : shop.jigs.bring(file))
);
