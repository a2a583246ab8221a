import { z } from 'zod';
import { planesOf } from '$core/rip/plan';
import { call, idOf } from '$lib/server/platform/http/call';
import { inkAt } from '$lib/server/production/plates';
import { Problem } from '$lib/server/platform/problem';

export const GET = call(
  {
    summary: 'Ink of each plate at a point of a run, pixels from its top left',
    query: z.object({ x: z.coerce.number().int().min(0), y: z.coerce.number().int().min(0) })
  },
  async ({ shop, event, query }) => {
    const id = idOf(event);
    const { result } = shop.runs.get(id);
    if (!result) throw new Problem(409, 'This run has not been RIPped.');
    return {
      inks: await inkAt(shop.runs.plates(id).overview, result, planesOf(shop.runs.frozen(id).plan).length, query.x, query.y)
    };
  }
);
