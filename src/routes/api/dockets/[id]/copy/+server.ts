import { z } from 'zod';
import { ChoiceGroups } from '$lib/docket-choices';
import { idList } from '$lib/server/platform/http/ids';
import { call, idOf } from '$lib/server/platform/http/call';

const Copy = z.object({ to: idList('docket', 2000), groups: ChoiceGroups });

export const POST = call({ summary: 'Give other dockets the same choices', body: Copy }, ({ shop, event, body }) =>
  shop.docketEditing.copyChoices(idOf(event), body.to, body.groups)
);
