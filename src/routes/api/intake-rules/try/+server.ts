import { z } from 'zod';
import { IntakeRules } from '$lib/intake-rules';
import { changesWords } from '$lib/recipe-words';
import { call } from '$lib/server/platform/http/call';

const Body = z.object({
  rules: IntakeRules,
  artworkId: z.int(),
  page: z.int().min(0).default(0),
  customer: z.string().max(120).default('')
});

export const POST = call(
  { summary: 'Which of some rules fits a page of artwork, and what it would change; nothing is made', body: Body },
  ({ shop, body: { rules, artworkId, page, customer } }) => {
    const { place, document, applied } = shop.intake.try(rules, artworkId, page, customer);
    const names = shop.recipeApplying.names();
    return {
      place,
      changes: applied ? changesWords(document, applied.document, names) : [],
      lacking: applied?.lacking ?? []
    };
  }
);
