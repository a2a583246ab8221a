import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('zing:settings');
  return { sources: locals.shop.sources.list(), fonts: locals.shop.fonts.list() };
};
