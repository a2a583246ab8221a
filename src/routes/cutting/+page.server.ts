import { SHAPES } from '$lib/server/app/lists';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends, url }) => {
  depends('zing:cuts', 'zing:runs', 'zing:dockets', 'zing:machines');
  return {
    list: locals.shop.lists.page('cuts', url.searchParams),
    shape: SHAPES.cuts,
    waiting: locals.shop.rolls.waiting()
  };
};
