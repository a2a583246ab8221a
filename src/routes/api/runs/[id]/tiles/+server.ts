import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';
import { ShownPlates } from '$lib/server/production/inspecting';

const Tile = z.object({
  shrink: z.coerce.number().int().min(1).max(65536),
  x: z.coerce.number().int().min(0),
  y: z.coerce.number().int().min(0),
  inks: ShownPlates,
  /** What the plates are seen on. */
  on: z.enum(['white', 'media']).default('white')
});

export const GET = call(
  { summary: 'A tile of a run’s plates', query: Tile, answers: 'image/png' },
  async ({ shop, event, query }) => {
    const png = await shop.inspecting.tile(idOf(event), {
      shrink: query.shrink,
      column: query.x,
      row: query.y,
      inks: query.inks,
      on: query.on
    });
    return new Response(png, {
      headers: { 'content-type': 'image/png', 'cache-control': 'private, max-age=600' }
    });
  }
);
