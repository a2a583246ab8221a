import { error } from '@sveltejs/kit';
import { shareOfRun } from '$lib/server/production/run-rules';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  depends('zing:dockets', 'zing:artwork', 'zing:runs', 'zing:settings');
  const { dockets, artworks } = locals.shop;
  try {
    const docket = dockets.get(Number(params.id));
    const { previous } = docket;
    return {
      docket,
      inRun:
        docket.runId !== null && docket.runState !== 'printed' ? shareOfRun(locals.shop.runs.get(docket.runId), docket.id) : null,
      sources: locals.shop.sources.list(),
      laneRules: locals.shop.lanes.list().map(({ machineId, mediaId, rule }) => ({ machineId, mediaId, rule })),
      lines: artworks.lines(docket.artworkId, docket.page),
      before: previous && {
        facts: artworks.page(previous.artworkId, previous.page).page,
        lines: artworks.lines(previous.artworkId, previous.page).length
      }
    };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
