import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';
import { Problem } from '$lib/server/platform/problem';

const Taken = z.object({ version: z.coerce.number().int(), name: z.string().min(1).max(200) });

/** The file is the body itself, so that nothing holds it in memory. */
export const PUT = call(
  { summary: 'Take pictures for a docket’s fields: the body is a zip of them', query: Taken },
  ({ shop, event, query: { version, name } }) => {
    const { body } = event.request;
    if (!body) throw new Problem(400, 'There is no file in the request. Send it as the body.');
    return shop.docketRecords.takePictures(idOf(event), version, body as unknown as AsyncIterable<Uint8Array>, name);
  }
);
