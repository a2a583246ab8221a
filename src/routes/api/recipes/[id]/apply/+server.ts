import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Body = z.object({
  dockets: z.array(z.int()).min(1, 'Choose at least one docket.').max(500, 'At most 500 dockets at once.')
});

export const POST = call({ summary: 'Apply a recipe to dockets: to all or to none', body: Body }, ({ shop, event, body }) =>
  shop.recipeApplying.apply(idOf(event), body.dockets)
);
