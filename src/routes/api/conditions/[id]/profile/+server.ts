import { readFile } from 'node:fs/promises';
import { call, idOf } from '$lib/server/api';
import { bytesOf } from '$lib/server/body';

const MOST_BYTES = 13e6;

export const GET = call(
  { summary: 'The ICC profile of a printing condition', answers: 'application/vnd.iccprofile' },
  async ({ shop, event }) => {
    const id = idOf(event);
    const bytes = await readFile(shop.conditions.profilePath(id));
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
