import { error } from '@sveltejs/kit';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends, params }) => {
  const id = Number(params.id);
  depends(`zing:recipes/${id}`, 'zing:recipes', 'zing:conditions', 'zing:dockets', 'zing:arrivals', 'zing:jigs');
  const { intake, jigs, networkPrinters, recipes, watchedFolders } = locals.shop;
  try {
    return {
      jigs: jigs.names(),
      recipe: recipes.get(id),
      versions: recipes.versions(id).slice(0, 20),
      made: recipes.dockets(id, 40),
      /** Where dockets are made by it without a person. */
      carriedBy: {
        folders: watchedFolders.list().flatMap(({ folder }) => (folder.recipeId === id ? [folder.path] : [])),
        printers: networkPrinters.list().flatMap(({ printer }) => (printer.recipeId === id ? [printer.name] : [])),
        rules: intake.rules().rules.flatMap((rule, i) => (rule.recipeId === id ? [i + 1] : []))
      },
      others: recipes
        .list()
        .filter((one) => one.id !== id)
        .map((one) => ({ id: one.id, name: one.recipe.name }))
    };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
