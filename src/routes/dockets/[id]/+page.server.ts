import { error } from '@sveltejs/kit';
import { shareOfRun } from '$lib/server/production/run-rules';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  const { dockets, artworks, jigs } = locals.shop;
  try {
    const docket = dockets.get(Number(params.id));
    const { artworkId, previous, runId } = docket;
    depends(`zing:dockets/${docket.id}`, `zing:artwork/${artworkId}`, 'zing:lanes', 'zing:settings', 'zing:colours', 'zing:jigs');
    if (runId !== null) depends(`zing:runs/${runId}`);
    return {
      docket,
      inRun: runId !== null && docket.runState !== 'printed' ? shareOfRun(locals.shop.runs.get(runId), docket.id) : null,
      divided: locals.shop.docketParts.divided(docket.id),
      record: locals.shop.docketRecords.first(docket.id) ?? null,
      jigs: jigs.lines(),
      places: docket.choices.jig ? (jigs.places(docket.choices.jig.id) ?? null) : null,
      sources: locals.shop.sources.list(),
      coloursVersion: locals.shop.colours.version,
      laneRules: locals.shop.lanes.list().map(({ id, machineId, mediaId, rule, condition: { mode } }) => ({
        id,
        machineId,
        mediaId,
        rule,
        mode: { code: mode.code, name: mode.name }
      })),
      lines: artworks.lines(artworkId, docket.page),
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
