import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';

const As = z.object({ as: z.enum(['json', 'hpgl']).default('json') });

export const GET = call(
  { summary: 'For cutters: what is cut of the print that carries a code', query: As },
  async ({ shop, event, query }) => {
    shop.cutterKeys.machineOf(event.request);
    const job = shop.asking.job(event.params['code'] ?? '');
    const { id } = shop.asking.tasks(job.code)[0]!;
    if (query.as === 'hpgl') {
      const bytes = await shop.cutPaths.file(id, 'hpgl');
      return new Response(new Uint8Array(bytes), { headers: { 'content-type': 'application/vnd.hp-hpgl' } });
    }
    return { ...job, lines: await shop.cutPaths.lines(id), knives: shop.cuts.get(id).knife };
  }
);
