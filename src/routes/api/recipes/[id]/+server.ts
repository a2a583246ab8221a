import { z } from 'zod';
import { Recipe } from '$lib/recipes';
import { Problem } from '$lib/server/platform/problem';
import { call, idOf, WITH_OUTLINES } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'A recipe, as it was before each change, and what it was applied to' }, ({ shop, event }) => {
  const id = idOf(event);
  return { ...shop.recipes.get(id), versions: shop.recipes.versions(id), dockets: shop.recipes.dockets(id) };
});
export const PUT = call(
  {
    summary: 'Change a recipe, from the version that was seen',
    body: z.object({ version: z.int(), recipe: Recipe }),
    most: WITH_OUTLINES
  },
  ({ shop, event, body }) => shop.recipes.change(idOf(event), body.version, body.recipe)
);
export const DELETE = call({ summary: 'Delete a recipe; it can be brought back' }, ({ shop, event }) => {
  const id = idOf(event);
  const { recipe } = shop.recipes.get(id);
  const folders = shop.watchedFolders.list().filter(({ folder }) => folder.recipeId === id);
  const rules = shop.intake.rules().rules.filter(({ recipeId }) => recipeId === id).length;
  const uses = [...folders.map(({ folder }) => `the folder ${folder.path}`), ...(rules > 0 ? ['a rule for what comes in'] : [])];
  if (uses.length > 0)
    throw new Problem(409, `${recipe.name} is used by ${uses.join(' and ')}. Choose another recipe there first.`);
  shop.recipes.remove(id);
});
