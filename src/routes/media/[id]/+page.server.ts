import { error } from '@sveltejs/kit';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  depends('zing:conditions', 'zing:machines');
  const { shop } = locals;
  try {
    return { media: shop.media.get(Number(params.id)), tables: shop.media.tables() };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
