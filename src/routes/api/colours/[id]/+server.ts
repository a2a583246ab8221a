import { z } from 'zod';
import { NamedColour } from '$core/colour/named-colour';
import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'A named colour' }, ({ shop, event }) => shop.colours.get(idOf(event)));
export const PUT = call(
  { summary: 'Change a named colour', body: z.object({ version: z.int(), colour: NamedColour }) },
  ({ shop, event, body }) => shop.colours.change(idOf(event), body.version, body.colour)
);
