import { error } from '@sveltejs/kit';
import { inkMl } from '$core/inks/drops';
import { pricesOf } from '$core/inks/ink-prices';
import { layersOf, planesOf } from '$core/rip/plan';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  const { shop } = locals;
  try {
    const run = shop.runs.get(Number(params.id));
    depends(`zing:runs/${run.id}`, 'zing:machines');
    if (!run.result) error(409, `Run ${run.id} has not been RIPped yet.`);
    const { plan } = shop.runs.frozen(run.id);
    const { widthMm, lengthMm, pieces } = plan;
    const { drops } = run.result;
    const layers = layersOf(plan);
    const prices = pricesOf(plan.inks, shop.machines.inkPrices(run.condition.machineId));
    const plates = planesOf(plan).map(({ ink, layer }, i) => {
      const { name, colour, drops: volumes } = plan.inks[ink]!;
      return { name, colour, price: prices[ink]!, layer, ml: inkMl(drops[i] ?? [0, 0, 0], volumes) };
    });
    return { run, result: run.result, widthMm, lengthMm, layers, plates, copies: pieces.length };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
