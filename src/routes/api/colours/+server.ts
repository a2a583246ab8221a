import { z } from 'zod';
import { NamedColour } from '$core/colour/named-colour';
import { idList } from '$lib/server/platform/http/ids';
import { call } from '$lib/server/platform/http/call';
import { MOST_AT_ONCE } from '$lib/server/platform/listing';

const Ids = z.object({ ids: idList('colour', MOST_AT_ONCE) });

export const POST = call({ summary: 'Add a named colour', body: NamedColour }, ({ shop, body }) => shop.colours.add(body));
export const DELETE = call(
  { summary: 'Delete named colours; they can be brought back for a week', body: Ids },
  ({ shop, body }) => ({
    deleted: shop.colours.remove(body.ids)
  })
);
