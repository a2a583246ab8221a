import { error } from '@sveltejs/kit';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  const { artworks, dockets } = locals.shop;
  try {
    const docket = dockets.get(Number(params.id));
    depends(`zing:dockets/${docket.id}`, `zing:artwork/${docket.artworkId}`, 'zing:settings', 'zing:conditions', 'zing:media');
    return { docket, lines: artworks.lines(docket.artworkId, docket.page) };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
