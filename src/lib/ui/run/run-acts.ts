import { goto } from '$app/navigation';
import type { PlacedCopy } from '$core/layout/placement';
import type { Run } from '$lib/server/production/run';
import { attempt, send } from '../common/client';
import type { Edits } from '../common/history.svelte';
import { once } from '../common/once';
import type { Laying } from './laying';

/** Which copies, as the server is asked for them. */
const named = (copies: readonly PlacedCopy[]) => copies.map(({ id, copy }) => ({ id, copy }));

/** What is done with a run and its copies, once however often it is pressed. What is refused was said, and nothing is done without it. */
export const runActs = (run: () => Pick<Run, 'id' | 'version' | 'laneId'>, edits: Edits<Laying>) => ({
  ask: once(async (what: 'rip' | 'release') => {
    if (await edits.flush()) await attempt(() => send('POST', `/api/runs/${run().id}/${what}`));
  }),

  /** Without printing it: its lines go to a cutter with plain film. */
  cutPlain: once(() =>
    attempt(async () => {
      const { task } = await send<{ task: number }>('POST', `/api/runs/${run().id}/cut`);
      await goto(`/cutting/${task}`);
    })
  ),

  /** Panels that are to be printed before the others, or on another roll. */
  apart: once((chosen: readonly PlacedCopy[]) =>
    attempt(async () => {
      const { id, version } = run();
      const made = await send<{ id: number }>('POST', `/api/runs/${id}/apart`, { version, copies: named(chosen) });
      await goto(`/runs/${made.id}`);
    })
  ),

  /** What is spoiled of what was RIPped is printed once more, in a run of its own. */
  again: once((spoiled: readonly PlacedCopy[]) =>
    attempt(async () => {
      const { id } = await send<{ id: number }>('POST', `/api/runs/${run().id}/again`, { copies: named(spoiled) });
      await goto(`/runs/${id}`);
    })
  ),

  keepForLane: () =>
    attempt(
      () => send('PUT', `/api/lanes/${run().laneId}`, { rule: { ...edits.current.rule, steps: null } }),
      `New runs of this lane begin as this one is now.`
    ),

  remove: once(async () => {
    await edits.flush();
    const { id } = run();
    if (await attempt(() => send('DELETE', `/api/runs/${id}`), `Run ${id} is deleted; its dockets are back in the tray.`))
      await goto('/runs');
  })
});
