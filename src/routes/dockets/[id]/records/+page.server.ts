import { error } from '@sveltejs/kit';
import { writeNumbers } from '$core/records/ranges';
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
      // Each thing of a list is a piece of work for who packs it, and there may be 100,000.
      numbers: writeNumbers(docketRecords.numbers(docket.id)),
      faces: fonts.faces().map(({ name }) => name)
    };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
