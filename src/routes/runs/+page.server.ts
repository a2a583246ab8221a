import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('zing:runs', 'zing:dockets');
  return { runs: locals.shop.runs.list() };
};
