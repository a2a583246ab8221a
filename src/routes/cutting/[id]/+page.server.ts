import { error } from '@sveltejs/kit';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, params, depends }) => {
  const id = Number(params.id);
  depends(`zing:cuts/${id}`, 'zing:machines');
  try {
    return { cut: await locals.shop.cutPaths.detail(id), asCut: await locals.shop.cutting.asCut(id) };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
