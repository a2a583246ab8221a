import { SHAPES } from '$lib/server/app/lists';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  // Not by what machines say: that is sent along as it comes.
  depends('zing:lanes', 'zing:runs', 'zing:dockets', 'zing:artwork', 'zing:conditions');
  return { floor: locals.shop.floor.now(), shape: SHAPES.dockets };
};
