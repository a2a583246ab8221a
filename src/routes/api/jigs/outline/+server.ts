import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';
import { bytesOf } from '$lib/server/platform/http/body';

const MOST_OUTLINE_BYTES = 20e6;

export const POST = call(
  {
    summary: 'The outline of a thing from an SVG or DXF drawing: the request body is the file',
    query: z.object({ name: z.string().min(1).max(250) })
  },
  async ({ shop, query, event }) => shop.jigIntake.outline(await bytesOf(event.request, MOST_OUTLINE_BYTES), query.name)
);
export const GET = call(
  { summary: 'The outline of a thing as a docket is cut', query: z.object({ docket: z.coerce.number().int().min(1) }) },
  ({ shop, query }) => shop.jigIntake.outlineOfDocket(query.docket)
);
