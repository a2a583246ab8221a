import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('zing:conditions');
  return { media: locals.shop.media.list(), away: locals.shop.media.away() };
};
