import { error } from '@sveltejs/kit';
import { Problem } from '$lib/server/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  depends('zing:dockets', 'zing:artwork', 'zing:runs');
  try {
    const docket = locals.shop.dockets.get(Number(params.id));
    return { docket, fontsNotEmbedded: locals.shop.artworks.get(docket.artworkId).facts?.fontsNotEmbedded ?? [] };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
