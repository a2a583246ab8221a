import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('zing:cuts', 'zing:runs');
  return { cuts: locals.shop.cuts.list() };
};
