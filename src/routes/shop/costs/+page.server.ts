import { error } from '@sveltejs/kit';
import { costsOf } from '$lib/server/printing/costs';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, url, depends }) => {
  depends('zing:runs');
  const weeks = Number(url.searchParams.get('weeks') ?? '4');
  try {
    return { weeks, days: costsOf(locals.shop.db, weeks) };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
