import { SHAPES } from '$lib/server/app/lists';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends, url }) => {
  depends('zing:colours');
  const { shop } = locals;
  return {
    list: shop.lists.page('colours', url.searchParams),
    shape: SHAPES.colours,
    collections: shop.colours.collections()
  };
};
