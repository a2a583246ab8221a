import { error } from '@sveltejs/kit';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  depends(`zing:jigs/${params.id}`, 'zing:runs');
  try {
    return { kept: locals.shop.jigs.get(Number(params.id)) };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
