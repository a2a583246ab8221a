import { error } from '@sveltejs/kit';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  depends('zing:conditions', 'zing:runs');
  const { shop } = locals;
  try {
    const id = Number(params.id);
    const condition = shop.conditions.get(id);
    const colour = condition.hasProfile ? shop.conditions.colour(id) : undefined;
    // What brings it back is figures for the RIP alone.
    const results = { ...shop.conditions.results(id) };
    delete results.match;
    return {
      condition,
      inks: shop.conditions.inks(id),
      // Drops are made for it: the page does not wait.
      later: { grain: shop.calibration.grain(id).catch(() => []) },
      results,
      charts: shop.charts.of(id),
      states: shop.conditions.states(id),
      watch: shop.watch.state(id),
      tone: shop.conditions.tone(id),
      curves: colour?.curves ?? null,
      isMixed: colour?.mixture !== undefined,
      startTask: shop.tasks.latest('start', id) ?? null
    };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
