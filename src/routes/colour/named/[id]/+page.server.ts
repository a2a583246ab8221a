import { error } from '@sveltejs/kit';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  depends('zing:colours', 'zing:conditions', 'zing:runs');
  const { shop } = locals;
  try {
    const id = Number(params.id);
    return {
      colour: shop.colours.get(Number.isSafeInteger(id) ? id : 0),
      collections: shop.colours.collections(),
      // Conditions are asked for it in a thread: the page does not wait.
      later: { on: shop.colourInks.on(id).catch(() => []) },
      charts: shop.charts.ofColour(id)
    };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
