import { z } from 'zod';
import { Jig } from '$core/layout/jig';
import { call, idOf, WITH_OUTLINES } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'A jig, and the runs that are placed in it' }, ({ shop, event }) =>
  shop.jigs.get(idOf(event))
);
export const PUT = call(
  { summary: 'Change a jig', body: z.object({ version: z.int(), jig: Jig }), most: WITH_OUTLINES },
  ({ shop, event, body }) => shop.jigs.change(idOf(event), body.version, body.jig)
);
export const DELETE = call({ summary: 'Delete a jig that no run is placed in' }, ({ shop, event }) =>
  shop.jigs.remove(idOf(event))
);
