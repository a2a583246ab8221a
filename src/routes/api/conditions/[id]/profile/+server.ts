import { readFile } from 'node:fs/promises';
import { z } from 'zod';
import { readProfileFacts } from '$core/colour/icc-read';
import { call, idOf } from '$lib/server/platform/http/call';
import { bytesOf } from '$lib/server/platform/http/body';
import { Problem } from '$lib/server/platform/problem';

const MOST_BYTES = 13e6;

const What = z.object({ only: z.literal('readings').optional() });

export const GET = call(
  {
    summary: 'The ICC profile of a printing condition, or only the readings (CGATS) that are kept in it',
    query: What,
    answers: 'application/vnd.iccprofile'
  },
  async ({ shop, event, query }) => {
    const id = idOf(event);
    const bytes = await readFile(shop.conditions.profilePath(id));
    if (query.only === 'readings') {
      const { measured } = readProfileFacts(bytes);
      if (measured === null) throw new Problem(404, 'This profile has no readings in it.');
      return new Response(measured, {
        headers: {
          'content-type': 'text/plain; charset=utf-8',
          'content-disposition': `attachment; filename="readings-${id}.txt"`
        }
      });
    }
    const { machine, media } = shop.conditions.get(id);
    const name = `${machine} on ${media}.icc`.replace(/[^\w .-]/g, '_');
    return new Response(new Uint8Array(bytes), {
      headers: { 'content-type': 'application/vnd.iccprofile', 'content-disposition': `attachment; filename="${name}"` }
    });
  }
);
export const PUT = call({ summary: 'Take a CMYK output profile that was made elsewhere' }, async ({ shop, event }) =>
  shop.calibration.importProfile(idOf(event), await bytesOf(event.request, MOST_BYTES))
);
