import { error } from '@sveltejs/kit';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  const { shop } = locals;
  try {
    const run = shop.runs.get(Number(params.id));
    depends(`zing:runs/${run.id}`);
    if (!run.result) error(409, `Run ${run.id} has not been RIPped yet.`);
    const { plan } = shop.runs.frozen(run.id);
    const { widthMm, lengthMm, inks, pieces } = plan;
    return { run, result: run.result, widthMm, lengthMm, inks, copies: pieces.length };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
