import { error } from '@sveltejs/kit';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  depends(`zing:jigs/${params.id}`, 'zing:runs');
  try {
    const { jigs, conditions } = locals.shop;
    return {
      kept: jigs.get(Number(params.id)),
      printedOn: conditions
        .list()
        .filter(({ sheetMm }) => sheetMm !== null)
        .map(({ id, media, machine, mode }) => ({ id, words: `${media}, ${mode.name}, ${machine}` }))
    };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
