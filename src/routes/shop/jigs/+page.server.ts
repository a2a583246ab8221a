import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('zing:jigs', 'zing:runs');
  return { jigs: locals.shop.jigs.list() };
};
