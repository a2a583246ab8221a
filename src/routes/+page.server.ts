import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('zing:runs', 'zing:dockets', 'zing:artwork');
  const { shop } = locals;
  return { runs: shop.runs.list(), dockets: shop.dockets.list(), prints: shop.printing.list().slice(0, 50) };
};
