import { SHAPES } from '$lib/server/app/lists';
import { dayOf } from '$lib/server/platform/days';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends, url }) => {
  depends('zing:dockets', 'zing:runs', 'zing:conditions');
  return {
    list: locals.shop.lists.page('dockets', url.searchParams),
    shape: SHAPES.dockets,
    today: dayOf(new Date())
  };
};
