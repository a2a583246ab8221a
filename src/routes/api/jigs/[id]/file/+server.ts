import { z } from 'zod';
import { jigDrawing } from '$core/layout/jig-drawing';
import { call, idOf } from '$lib/server/platform/http/call';
import { JIG_FORMAT } from '$lib/server/machines/jigs';

const TYPES = { json: 'application/json', svg: 'image/svg+xml' };

export const GET = call(
  {
    summary: 'A jig as a file: JSON to be taken elsewhere, or its outlines as SVG at their size',
    query: z.object({
      as: z.enum(['json', 'svg']).default('json'),
      weightMm: z.coerce.number().min(0.05).max(100).default(0.25),
      v: z.string().optional()
    }),
    answers: 'JSON, or SVG'
  },
  ({ shop, event, query: { as, weightMm } }) => {
    const { jig } = shop.jigs.get(idOf(event));
    const text =
      as === 'svg'
        ? jigDrawing(jig, { colour: '#000000', weightMm })
        : JSON.stringify({ format: JIG_FORMAT, version: 1, jig }, null, 2);
    return new Response(text, {
      headers: {
        'content-type': TYPES[as],
        'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(`${jig.name}.${as}`)}`
      }
    });
  }
);
