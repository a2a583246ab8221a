import { z } from 'zod';
import { call } from '$lib/server/platform/http/call';

const MOST = 2000;
const Page = z.object({ artworkId: z.int(), page: z.int().min(0) });

export const POST = call(
  {
    summary: 'Make a docket of each of these artwork pages',
    body: z
      .object({
        pages: z.array(Page).max(MOST, `At most ${MOST} dockets at once.`).default([]),
        /** Pages by their numbers in the list of artwork. */
        lines: z.array(z.int()).max(MOST, `At most ${MOST} dockets at once.`).default([])
      })
      .refine(({ pages, lines }) => pages.length + lines.length > 0, 'Choose at least one page.')
  },
  async ({ shop, body }) => ({
    ids: await shop.intake.makeDockets([...body.pages, ...shop.artworks.pagesOf(body.lines)])
  })
);
