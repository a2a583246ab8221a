import { SHAPES } from '$lib/server/app/lists';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends, url }) => {
  depends('zing:runs', 'zing:dockets', 'zing:conditions');
  return { list: locals.shop.lists.page('runs', url.searchParams), shape: SHAPES.runs };
};
