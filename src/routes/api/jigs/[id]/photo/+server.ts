import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';
import { bytesOf } from '$lib/server/platform/http/body';

const MOST_PHOTO_BYTES = 100e6;
/** Four points, as eight shares of a picture. */
const Corners = z
  .string()
  .max(200)
  .transform((text) => text.split(' ').map(Number))
  .refine((all) => all.length === 8 && all.every((v) => v > -0.5 && v < 1.5), 'Four corners are eight shares of the picture.');

export const POST = call(
  {
    summary:
      'Where things lie in a photo of the loaded jig: the request body is the photo. Corners of the bed, as shares of its width and height, where no marks are on it',
    query: z.object({ corners: Corners.optional() })
  },
  async ({ shop, query, event }) => {
    const { jig } = shop.jigs.get(idOf(event));
    const { corners } = query;
    const points = corners && [0, 2, 4, 6].map((i) => ({ x: corners[i]!, y: corners[i + 1]! }));
    return shop.jigIntake.find(await bytesOf(event.request, MOST_PHOTO_BYTES), jig, points ?? null);
  }
);
