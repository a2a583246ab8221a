import { z } from 'zod';
import { CUT_FORMS, type CutForm } from '$lib/server/cutting/cut';
import { call, idOf } from '$lib/server/platform/http/call';
import { Problem } from '$lib/server/platform/problem';

const Form = z.enum(Object.keys(CUT_FORMS) as [CutForm, ...CutForm[]]);

export const GET = call({ summary: 'The lines of a print as SVG, DXF, PDF or HPGL' }, async ({ shop, event }) => {
  const id = idOf(event);
  const as = Form.safeParse(event.url.searchParams.get('as'));
  if (!as.success) throw new Problem(422, `Say what the lines are written as: ${Form.options.join(', ')}.`);
  const { code } = shop.cuts.get(id);
  const bytes = await shop.cutPaths.file(id, as.data);
  return new Response(new Uint8Array(bytes), {
    headers: {
      'content-type': CUT_FORMS[as.data],
      'content-disposition': `attachment; filename="${code.replace('/', ' print ')}.${as.data}"`
    }
  });
});
