import { z } from 'zod';
import { Recipe } from '$lib/recipes';
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
  const used = shop.watchedFolders.list().find(({ folder }) => folder.recipeId === id);
  shop.recipes.remove(id);
  return { ok: true, usedBy: used?.folder.path ?? null };
});
