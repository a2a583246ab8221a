import { error } from '@sveltejs/kit';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends, params }) => {
  const id = Number(params.id);
  depends(`zing:recipes/${id}`, 'zing:conditions', 'zing:dockets');
  const { recipes } = locals.shop;
  try {
    return {
      recipe: recipes.get(id),
      versions: recipes.versions(id).slice(0, 20),
      made: recipes.dockets(id, 40),
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
