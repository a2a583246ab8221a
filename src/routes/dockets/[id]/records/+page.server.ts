import { error } from '@sveltejs/kit';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  const { dockets, docketRecords, fonts } = locals.shop;
  try {
    const docket = dockets.get(Number(params.id));
    depends(`zing:dockets/${docket.id}`, `zing:artwork/${docket.artworkId}`, 'zing:settings');
    return {
      docket,
      areas: docketRecords.areas(docket),
      numbers: docketRecords.numbers(docket.id),
      faces: fonts.faces().map(({ name }) => name)
    };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
