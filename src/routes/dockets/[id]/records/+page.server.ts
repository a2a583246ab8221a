import { error } from '@sveltejs/kit';
import { roleOf } from '$core/artwork/roles';
import { foundAreas } from '$core/records/found-areas';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  const { dockets, docketRecords, fonts, settings } = locals.shop;
  try {
    const docket = dockets.get(Number(params.id));
    depends(`zing:dockets/${docket.id}`, `zing:artwork/${docket.artworkId}`, 'zing:settings');
    const { choices, artwork } = docket;
    const { lines, preparation } = dockets.prepared(docket);
    const role = (name: string) => roleOf(name, settings.current.rules, choices.roles);
    // Fields are placed on the piece as it reads; they are mirrored with it.
    const areas = foundAreas(artwork.facts, lines, role, { ...preparation, mirror: false }, choices);
    return { docket, areas, numbers: docketRecords.numbers(docket.id), faces: fonts.faces().map(({ name }) => name) };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
