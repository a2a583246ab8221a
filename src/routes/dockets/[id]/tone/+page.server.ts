import { error } from '@sveltejs/kit';
import { Problem } from '$lib/server/platform/problem';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) => {
  const { charts, conditions, dockets, lanes, preparedDockets } = locals.shop;
  try {
    const docket = dockets.get(Number(params.id));
    depends(`zing:dockets/${docket.id}`, 'zing:settings', 'zing:conditions', 'zing:colours', 'zing:runs', 'zing:lanes');
    const { conditionId } = docket.choices;
    const condition = conditionId === null ? null : conditions.get(conditionId);
    const named = { has: preparedDockets.get(docket).preparation.named !== undefined, version: locals.shop.colours.version };
    return {
      docket,
      named,
      strip: charts.ofDocket(docket.id) ?? null,
      condition,
      lane: lanes.list().find((lane) => lane.machineId === condition?.machineId && lane.mediaId === condition.mediaId) ?? null,
      conditionTone: conditionId === null ? {} : conditions.tone(conditionId)
    };
  } catch (problem) {
    if (problem instanceof Problem) error(problem.status, problem.message);
    throw problem;
  }
};
