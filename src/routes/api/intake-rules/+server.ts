import { z } from 'zod';
import { IntakeRules } from '$lib/intake-rules';
import { call } from '$lib/server/platform/http/call';

export const GET = call(
  { summary: 'Rules of the shop: when something that comes in is so, it is made by a recipe' },
  ({ shop }) => shop.intake.rules()
);
export const PUT = call(
  { summary: 'Change these rules, from the version that was seen', body: z.object({ version: z.int(), rules: IntakeRules }) },
  ({ shop, body }) => shop.intake.changeRules(body.version, body.rules)
);
