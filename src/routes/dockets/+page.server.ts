import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('zing:dockets', 'zing:artwork', 'zing:runs');
  return { dockets: locals.shop.dockets.list() };
};
