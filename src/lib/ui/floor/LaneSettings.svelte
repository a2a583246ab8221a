<script lang="ts">
  import type { Release } from '$lib/run-rule';
  import type { ShopSettings } from '$lib/shop-settings';
  import type { Condition } from '$lib/server/conditions/condition';
  import type { Lane } from '$lib/server/production/lanes';
  import type { Edits } from '$lib/ui/common/history.svelte';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import PercentBox from '$lib/ui/common/PercentBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import { laneEdits, type LaneChoices } from './lane-edits';
  import { RULES } from '$lib/ui/run/rules';
  import PlacingForm from '$lib/ui/run/PlacingForm.svelte';
  import { PLACING_RULES, type PlacingRule } from '$core/layout/placement';

  interface Props {
    conditions: readonly Condition[];
    unit: ShopSettings['unit'];
  }
  let { conditions, unit }: Props = $props();

  let dialog: HTMLDialogElement;
  let lane = $state.raw<Lane | null>(null);
  const modes = $derived(conditions.filter((one) => one.machineId === lane?.machineId && one.mediaId === lane.mediaId));
  let edits = $state.raw<Edits<LaneChoices>>();
  const choices = $derived(edits?.current);
  const release = $derived<Release>(choices?.release ?? { kind: 'hand' });

  export function open(of: Lane): void {
    lane = of;
    edits = laneEdits(of);
    dialog.showModal();
  }
  const change = (part: Partial<LaneChoices>) => edits?.change({ ...edits.current, ...part });
  const KINDS: Record<Release['kind'], Release> = {
    hand: { kind: 'hand' },
    quiet: { kind: 'quiet', minutes: 30 },
    full: { kind: 'full', share: 0.9, lengthMm: 5000 },
    at: { kind: 'at', time: '17:30' }
  };
</script>

<svelte:window onbeforeunload={(event) => edits?.holdPage(event)} />
<dialog bind:this={dialog} class="modal" aria-label="Settings of the lane" onclose={() => void edits?.flush()}>
  {#if lane && choices}
    <div class="modal-box max-w-lg">
      <h2 class="mb-2 text-lg font-semibold">Lane of {lane.media} on {lane.condition.machine}</h2>
      <div class="mb-3 grid grid-cols-[1fr_auto] items-center gap-x-3 gap-y-1.5 text-sm">
        <label for="lane-mode">Print mode</label>
        <select
          id="lane-mode"
          class="select select-sm w-64"
          value={choices.conditionId}
          onchange={(event) => change({ conditionId: Number(event.currentTarget.value) })}
        >
          {#each modes as one (one.id)}<option value={one.id}>{one.mode.name}</option>{/each}
        </select>
        <label for="lane-release">Runs print</label>
        <select
          id="lane-release"
          class="select select-sm w-64"
          value={release.kind}
          onchange={(event) => change({ release: KINDS[event.currentTarget.value as Release['kind']] })}
        >
          <option value="hand">when they are released by hand</option>
          <option value="quiet">when nothing new has come for a time</option>
          <option value="full">when a {lane.condition.sheetMm === null ? 'length' : 'sheet'} is filled</option>
          <option value="at">at a time of day</option>
        </select>
        {#if release.kind === 'quiet'}
          <span>Minutes without a new docket</span>
          <FigureBox
            late
            label="Minutes without a new docket"
            decimals={2}
            min={0.05}
            max={10_080}
            value={release.minutes}
            onchange={(minutes) => change({ release: { kind: 'quiet', minutes } })}
          />
        {:else if release.kind === 'full' && lane.condition.sheetMm !== null}
          <span>Filled to, %</span>
          <PercentBox
            late
            label="Filled to, %"
            min={0.05}
            step={5}
            share={release.share}
            onchange={(share) => release.kind === 'full' && change({ release: { ...release, share } })}
          />
        {:else if release.kind === 'full'}
          <span>Length, {unit}</span>
          <LengthBox
            label="Length that releases"
            {unit}
            value={release.lengthMm}
            min={100}
            max={1e6}
            onchange={(lengthMm) => release.kind === 'full' && change({ release: { ...release, lengthMm } })}
          />
        {:else if release.kind === 'at'}
          <label for="lane-time">Time of day</label>
          <input
            id="lane-time"
            class="input input-sm w-32 justify-self-end"
            type="time"
            value={release.time}
            onchange={(event) => change({ release: { kind: 'at', time: event.currentTarget.value } })}
          />
        {/if}
        <label for="lane-placing">New runs are placed</label>
        <select
          id="lane-placing"
          class="select select-sm w-64"
          value={choices.rule.placing}
          onchange={(event) => change({ rule: { ...choices.rule, placing: event.currentTarget.value as PlacingRule } })}
        >
          {#each PLACING_RULES as placing (placing)}<option value={placing}>{RULES[placing].name}</option>{/each}
        </select>
      </div>
      <PlacingForm
        rule={choices.rule}
        sheet={lane.condition.sheetMm !== null}
        {unit}
        disabled={false}
        onchange={(part) => change({ rule: { ...choices.rule, ...part } })}
      />
      <div class="modal-action"><button class="btn btn-sm" onclick={() => dialog.close()}>Done</button></div>
    </div>
  {/if}
</dialog>
