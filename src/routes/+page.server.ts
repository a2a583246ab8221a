import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('zing:runs', 'zing:dockets', 'zing:artwork', 'zing:machines', 'zing:conditions');
  const { shop } = locals;
  return {
    lanes: shop.lanes.list(),
    media: shop.media.list(),
    runs: shop.runs.list(),
    dockets: shop.dockets.list(),
    prints: shop.prints.list().slice(0, 50)
  };
};
