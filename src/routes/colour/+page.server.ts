import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('zing:conditions', 'zing:machines');
  return { away: locals.shop.conditions.away() };
};
