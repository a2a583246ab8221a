<script lang="ts">
  import Crosshair from '@lucide/svelte/icons/crosshair';
  import type { Check, Subject } from '$core/checks/check';
  import { counted } from '$core/units/counted';
  import LevelIcon from '$lib/ui/common/LevelIcon.svelte';
  import type { TicketChecks } from './ticket';

  /** The checks on one sentence of the ticket, stops first; the one that is looked at is unfolded, and every stop. */
  let { of, checks }: { of: Subject; checks: TicketChecks } = $props();

  const here = $derived(checks.all.filter((check) => check.about === of));
  const open = $derived(here.filter((check) => check.level !== 'fine'));
  const fine = $derived(here.filter((check) => check.level === 'fine'));
  const isUnfolded = (check: Check) => check.level === 'stop' || checks.shown === check.id;
</script>

{#snippet item(check: Check)}
  {@const unfolded = isUnfolded(check)}
  <li
    class="flex items-start gap-2 rounded px-1 {checks.shown === check.id ? 'bg-base-200 outline-primary outline-2' : ''}"
    id="check-{check.id}"
  >
    <span class="shrink-0 pt-0.5"><LevelIcon level={check.level} bare={check.level === 'fine'} /></span>
    <div class="min-w-0 grow py-0.5">
      <button
        class="block w-full cursor-pointer text-left {unfolded ? '' : 'truncate'}"
        aria-expanded={unfolded}
        onclick={() => checks.show(unfolded && checks.shown === check.id ? null : check)}>{check.sentence}</button
      >
      {#if unfolded && (check.place || check.mend)}
        <span class="my-0.5 flex flex-wrap gap-1">
          {@render mender(check)}
          {#if check.place}
            <button class="btn btn-xs btn-ghost" onclick={() => checks.show(check)}
              ><Crosshair size={13} aria-hidden="true" />Show where</button
            >
          {/if}
        </span>
      {/if}
    </div>
    {#if !unfolded}{@render mender(check)}{/if}
  </li>
{/snippet}

{#snippet mender({ mend }: Check)}
  {#if mend}<button class="btn btn-xs shrink-0" onclick={() => checks.mend(mend)}>{mend.label}</button>{/if}
{/snippet}

{#if here.length > 0}
  <div class="mt-1 text-sm leading-5">
    <ul class="space-y-1" aria-label="Checks of the {of}">
      {#each open as check (check.id)}{@render item(check)}{/each}
    </ul>
    {#if fine.length > 0}
      <details class="mt-0.5">
        <summary class="text-base-content/70 cursor-pointer text-xs"
          ><LevelIcon level="fine" bare />
          <span class="align-middle">{counted(fine.length, 'thing is', 'things are')} fine</span></summary
        >
        <ul class="mt-1 space-y-1">
          {#each fine as check (check.id)}{@render item(check)}{/each}
        </ul>
      </details>
    {/if}
  </div>
{/if}
