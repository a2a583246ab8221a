import { z } from 'zod';
import { idList } from '$lib/server/platform/http/ids';
import { call, idOf } from '$lib/server/platform/http/call';

const Body = z.object({
  dockets: idList('docket', 500)
});

export const POST = call({ summary: 'Apply a recipe to dockets: to all or to none', body: Body }, ({ shop, event, body }) =>
  shop.recipeApplying.apply(idOf(event), body.dockets)
);
