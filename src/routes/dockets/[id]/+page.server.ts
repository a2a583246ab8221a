import { error } from '@sveltejs/kit';
import { pricesOf } from '$core/inks/ink-prices';
import { layersTogether } from '$core/inks/stack';
import { countedInk } from '$core/layout/run-costs';
import { ratesOf } from '$lib/run-rates';
import type { Shop } from '$lib/server/app/shop';
import { shareOfRun, type InRun } from '$lib/server/production/run-rules';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

/** A docket in its run, with its part of what that costs. */
function inRun({ conditions, machines, preparedDockets, runs, settings }: Shop, runId: number, docketId: number): InRun | null {
  const run = runs.get(runId);
  const { machineId } = run.condition;
  const { layers } = layersTogether(run.dockets.map((docket) => preparedDockets.layers(docket).stack));
  const prices = pricesOf(conditions.inks(run.condition.id), machines.inkPrices(machineId));
  const counted = run.result && !run.stale ? countedInk(run.result, prices, settings.current.inkCostPerMl) : null;
  return shareOfRun(run, docketId, ratesOf(run, machines.get(machineId), layers.length), counted);
}

export const load: PageServerLoad = ({ locals, params, depends }) => {
  const { dockets, artworks, jigs } = locals.shop;
  try {
    const docket = dockets.get(Number(params.id));
    const { artworkId, previous, runId } = docket;
    depends(
      `zing:dockets/${docket.id}`,
      `zing:artwork/${artworkId}`,
      'zing:lanes',
      'zing:settings',
      'zing:colours',
      'zing:jigs',
      'zing:machines'
    );
    if (runId !== null) depends(`zing:runs/${runId}`);
    return {
      docket,
      inRun: runId !== null && docket.runState !== 'printed' ? inRun(locals.shop, runId, docket.id) : null,
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
