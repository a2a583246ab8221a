import { z } from 'zod';
import { planesOf } from '$core/rip/plan';
import { screenOf } from '$core/colour/stack-look';
import { call, idOf } from '$lib/server/platform/http/call';
import { plateTile } from '$lib/server/production/plates';
import { Problem } from '$lib/server/platform/problem';

const Tile = z.object({
  shrink: z.coerce.number().int().min(1).max(65536),
  x: z.coerce.number().int().min(0),
  y: z.coerce.number().int().min(0),
  inks: z
    .string()
    .regex(/^[01]{1,192}$/)
    .optional(),
  /** What the plates are seen on. */
  on: z.enum(['white', 'media']).default('white')
});

export const GET = call(
  { summary: 'A tile of a run’s plates', query: Tile, answers: 'image/png' },
  async ({ shop, event, query }) => {
    const id = idOf(event);
    const { result, condition } = shop.runs.get(id);
    const { plan } = shop.runs.frozen(id);
    const inks = planesOf(plan).map(({ ink }) => plan.inks[ink]!);
    if (!result) throw new Problem(409, 'This run has not been RIPped.');
    if ((query.shrink & (query.shrink - 1)) !== 0) throw new Problem(422, 'Tiles are shrunk by powers of two.');
    const png = await plateTile(
      shop.runs.plates(id),
      result,
      query.shrink,
      query.x,
      query.y,
      inks,
      inks.map((_, i) => query.inks?.[i] !== '0'),
      query.on === 'media' ? screenOf(condition.press.media) : undefined
    );
    return new Response(new Uint8Array(png), {
      headers: { 'content-type': 'image/png', 'cache-control': 'private, max-age=600' }
    });
  }
);
