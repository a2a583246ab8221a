<script lang="ts">
  import { goto } from '$app/navigation';
  import type { LengthUnit } from '$core/units/length';
  import type { Sheet } from '$lib/server/production/jig-intake';
  import { attempt, send } from '$lib/ui/common/client';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';

  /** What is printed for a jig itself: its outlines to lay things in by, or marks for a photo of it. */
  let { id, unit, conditions }: { id: number; unit: LengthUnit; conditions: readonly { id: number; words: string }[] } = $props();

  let what = $state<Sheet>('outlines');
  let colour = $state('#000000');
  let weightMm = $state(0.5);
  let chosen = $state<number>();
  const conditionId = $derived(chosen ?? conditions[0]?.id);
  let isMaking = $state(false);
  async function make(): Promise<void> {
    isMaking = true;
    await attempt(async () => {
      const { run } = await send<{ run: number }>('POST', `/api/jigs/${id}/sheet`, { what, colour, weightMm, conditionId });
      await goto(`/runs/${run}`);
    });
    isMaking = false;
  }
</script>

<section aria-label="To lay in by" class="space-y-1">
  <h2 class="panel-title">To lay things in by</h2>
  {#if conditions.length === 0}
    <p class="text-base-content/70 text-sm">
      Its outlines are printed on a flatbed, at the same corner as the work: add one and a media in sheets first.
    </p>
  {:else}
    <p class="leading-9">
      Print <select class="in-sentence" aria-label="What is printed" bind:value={what}>
        <option value="outlines">outlines and numbers</option><option value="marks">marks for a photo</option>
      </select>
      {#if what === 'outlines'}in lines of <LengthBox
          sentence
          label="Weight of the lines"
          {unit}
          value={weightMm}
          min={0.05}
          max={5}
          onchange={(mm) => (weightMm = mm)}
        />,
        <input
          type="color"
          class="in-sentence h-6 w-10 align-middle"
          aria-label="Colour of the lines"
          bind:value={colour}
        />,{/if}
      on
      <select
        class="in-sentence max-w-60"
        aria-label="Printed on"
        value={String(conditionId)}
        onchange={(event) => (chosen = Number(event.currentTarget.value))}
      >
        {#each conditions as one (one.id)}<option value={String(one.id)}>{one.words}</option>{/each}
      </select>.
    </p>
    <button class="btn btn-sm" disabled={isMaking} onclick={make}>{isMaking ? 'It is drawn …' : 'Make the run'}</button>
  {/if}
</section>
