import { readFile } from 'node:fs/promises';
import { call, idOf } from '$lib/server/api';

export const GET = call(
  { summary: 'The ICC profile of a condition', answers: 'application/vnd.iccprofile' },
  async ({ shop, event }) => {
    const id = idOf(event);
    const bytes = await readFile(shop.conditions.profilePath(id));
    return new Response(new Uint8Array(bytes), {
      headers: {
        'content-type': 'application/vnd.iccprofile',
        'content-disposition': `attachment; filename="condition-${id}.icc"`
      }
    });
  }
);
