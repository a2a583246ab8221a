import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('zing:recipes', 'zing:conditions', 'zing:arrivals');
  const folders = locals.shop.watchedFolders.list();
  return { recipes: locals.shop.recipes.list(), folders, rules: locals.shop.intake.rules() };
};
