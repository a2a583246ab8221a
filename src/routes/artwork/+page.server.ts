import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('zing:artwork', 'zing:dockets');
  return {
    artworks: locals.shop.artworks.list(),
    dockets: locals.shop.dockets.list().map(({ id, artworkId, page }) => ({ id, artworkId, page }))
  };
};
