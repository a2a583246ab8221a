import { z } from 'zod';
import { COLOUR_FORMATS } from '$core/colour/colour-files';
import { MOST_COLOUR_BYTES } from '$lib/server/conditions/colour-files';
import { bytesOf } from '$lib/server/platform/http/body';
import { call } from '$lib/server/platform/http/call';

const KINDS = {
  csv: { type: 'text/csv; charset=utf-8', ending: 'csv' },
  cgats: { type: 'text/plain; charset=utf-8', ending: 'txt' },
  cxf: { type: 'application/xml; charset=utf-8', ending: 'cxf' }
} as const;

const What = z.object({ format: z.enum(COLOUR_FORMATS).default('csv'), collection: z.string().max(80).optional() });

export const GET = call(
  { summary: 'Named colours of a collection, or all, as a file: CSV, CGATS or CxF3', query: What, answers: 'text/csv' },
  ({ shop, query: { format, collection } }) => {
    const { type, ending } = KINDS[format];
    const name = (collection || 'named colours').replace(/[^\w .-]/g, '_');
    return new Response(shop.colourFiles.write(format, collection), {
      headers: { 'content-type': type, 'content-disposition': `attachment; filename="${name}.${ending}"` }
    });
  }
);
export const POST = call(
  { summary: 'Read a file of colours (CSV, CGATS, CxF3), and say what it would bring' },
  async ({ shop, event }) => shop.colourFiles.look(await bytesOf(event.request, MOST_COLOUR_BYTES))
);
