import { z } from 'zod';
import { ChoiceGroups } from '$lib/model';
import { call, idOf } from '$lib/server/platform/http/call';

const Copy = z.object({ to: z.array(z.int()).min(1, 'Choose at least one docket.').max(2000), groups: ChoiceGroups });

export const POST = call({ summary: 'Give other dockets the same choices', body: Copy }, ({ shop, event, body }) =>
  shop.dockets.copyChoices(idOf(event), body.to, body.groups)
);
