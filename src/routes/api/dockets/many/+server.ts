import { z } from 'zod';
import { ManyChange } from '$lib/model';
import { call, WITH_OUTLINES } from '$lib/server/platform/http/call';

const Ids = z.array(z.int()).min(1, 'Choose at least one docket.').max(2000);

export const PUT = call(
  { summary: 'Change many dockets at once', body: z.object({ ids: Ids, change: ManyChange }), most: WITH_OUTLINES },
  ({ shop, body }) => shop.dockets.changeMany(body.ids, body.change)
);
