import { createReadStream } from 'node:fs';
import { Readable } from 'node:stream';
import { z } from 'zod';
import { Role } from '$core/artwork/roles';
import { Adjustment, NO_ADJUSTMENT } from '$core/colour/adjustment';
import { Tone } from '$core/colour/tone';
import { Stack } from '$core/inks/stack';
import { Intent, PieceRequest } from '$lib/docket-choices';
import { call, idOf } from '$lib/server/platform/http/call';
import { jsonText } from '$lib/server/platform/http/json-text';

const Drawn = z.object({
  piece: PieceRequest,
  stack: Stack.nullable(),
  roles: z.record(z.string().max(200), Role),
  conditionId: z.int().nullable(),
  intent: Intent,
  adjustment: Adjustment.default(NO_ADJUSTMENT),
  tone: Tone.default({})
});

const Layers = z.object({
  page: z.coerce.number().int().min(0).default(0),
  px: z.coerce
    .number()
    .pipe(z.union([z.literal(400), z.literal(1200), z.literal(2400)]))
    .default(1200),
  show: z.union([
    z.enum(['front', 'behind']),
    z
      .string()
      .regex(/^\d{1,2}$/)
      .transform(Number)
  ]),
  backing: z
    .string()
    .regex(/^#[0-9a-f]{6}$/i, 'A colour is six figures after #.')
    .default('#ffffff'),
  of: jsonText('The docket', 80_000).pipe(Drawn)
});

export const GET = call(
  {
    summary: 'A picture of a page with what lies under and over its colour: all of it from a side, or one layer',
    query: Layers,
    answers: 'image/png'
  },
  async ({ shop, event, query: { page, px, show, backing, of } }) => {
    const shown = typeof show === 'number' ? { layer: show } : { from: show, backing };
    const path = await shop.layerPictures.picture({ artworkId: idOf(event), page, ...of }, shown, px);
    return new Response(Readable.toWeb(createReadStream(path)) as ReadableStream, {
      headers: { 'content-type': 'image/png', 'cache-control': 'private, max-age=600' }
    });
  }
);
