import { SHAPES } from '$lib/server/app/lists';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends, url }) => {
  depends('zing:artwork', 'zing:dockets');
  return { list: locals.shop.lists.page('artwork', url.searchParams), shape: SHAPES.artwork };
};
