import type { LaneChange } from '$lib/run-rule';
import type { Lane } from '$lib/server/production/lanes';
import { send } from '../common/client';
import { partEdits } from '../common/kept-edits.svelte';

/** What of a lane is set: its print mode, how new runs of it are laid out, and when they print. */
export type LaneChoices = Required<LaneChange>;

const choicesOf = ({ condition, rule, release }: Lane): LaneChoices => ({ conditionId: condition.id, rule, release });

/** Settings of a lane that save themselves. */
export const laneEdits = (lane: Lane) =>
  partEdits<LaneChoices>(choicesOf(lane), async (changed) =>
    choicesOf(await send<Lane>('PUT', `/api/lanes/${lane.id}`, changed))
  );
