import type { LaneChange } from '$lib/model';
import type { Lane } from '$lib/server/production/lanes';
import { isAway, send } from '../common/client';
import { Edits } from '../common/history.svelte';
import { sayRefused } from '../common/kept-edits.svelte';
import { isAlike, together } from '../common/together';

/** What of a lane is set: its print mode, how new runs of it are laid out, and when they print. */
export type LaneChoices = Required<LaneChange>;

const choicesOf = ({ condition, rule, release }: Lane): LaneChoices => ({ conditionId: condition.id, rule, release });

/** Settings of a lane that save themselves. What is not changed here is not written over. */
export const laneEdits = (lane: Lane) =>
  new Edits<LaneChoices>(choicesOf(lane), {
    save: async (next, before) => {
      const changed = Object.entries(next).filter(([name, value]) => !isAlike(value, before[name as keyof LaneChoices]));
      try {
        return { kind: 'saved', now: choicesOf(await send<Lane>('PUT', `/api/lanes/${lane.id}`, Object.fromEntries(changed))) };
      } catch (error) {
        sayRefused(error);
        if (isAway(error)) throw error;
        return { kind: 'refused', now: before };
      }
    },
    together
  });
