import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('zing:recipes', 'zing:conditions', 'zing:arrivals', 'zing:jigs');
  const folders = locals.shop.watchedFolders.list();
  return { jigs: locals.shop.jigs.names(), recipes: locals.shop.recipes.list(), folders, rules: locals.shop.intake.rules() };
};
