import { z } from 'zod';
import { changesWords } from '$lib/recipe-words';
import { Recipe } from '$lib/recipes';
import { toDocument } from '$lib/server/dockets/dockets';
import { call, WITH_OUTLINES } from '$lib/server/platform/http/call';

const Body = z.object({
  docket: z.int(),
  /** One that is kept, or one that is being made. */
  recipe: z.union([z.int(), Recipe.pick({ sets: true, on: true })])
});

export const POST = call(
  { summary: 'What a recipe would change on a docket; nothing is changed', body: Body, most: WITH_OUTLINES },
  ({ shop, body: { docket: id, recipe } }) => {
    const docket = shop.dockets.get(id);
    const sets =
      typeof recipe === 'number'
        ? shop.recipes.whole(recipe)
        : { ...(recipe.on === null ? {} : shop.recipes.whole(recipe.on)), ...recipe.sets };
    const { document, lacking } = shop.recipeApplying.on(sets, docket);
    const names = shop.recipeApplying.names();
    return { changes: changesWords(toDocument(docket), document, names), lacking };
  }
);
