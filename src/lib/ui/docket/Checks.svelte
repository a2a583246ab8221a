<script lang="ts">
  import Crosshair from '@lucide/svelte/icons/crosshair';
  import type { Check, Mend } from '$core/checks/check';
  import LevelIcon from '$lib/ui/common/LevelIcon.svelte';

  interface Props {
    checks: readonly Check[];
    shown: string | null;
    /** What is still being measured, in words. */
    waiting: string;
    onshow: (check: Check) => void;
    onmend: (mend: Mend) => void;
  }
  let { checks, shown, waiting, onshow, onmend }: Props = $props();

  const open = $derived(checks.filter((check) => check.level !== 'fine'));
  const fine = $derived(checks.filter((check) => check.level === 'fine'));
</script>

{#snippet item(check: Check)}
  <li class="flex items-start gap-2" class:bg-base-200={shown === check.id} id="check-{check.id}">
    <span class="w-14 shrink-0"><LevelIcon level={check.level} /></span>
    <span class="grow">
      {check.sentence}
      {#if check.place || check.mend}
        <span class="mt-0.5 flex flex-wrap gap-1">
          {#if check.mend}
            {@const { mend } = check}
            <button class="btn btn-xs" onclick={() => onmend(mend)}>{mend.label}</button>
          {/if}
          {#if check.place}
            <button class="btn btn-xs btn-ghost" onclick={() => onshow(check)}
              ><Crosshair size={13} aria-hidden="true" />Show where</button
            >
          {/if}
        </span>
      {/if}
    </span>
  </li>
{/snippet}

<section class="border-base-300 border-b p-4 py-3 text-sm" aria-label="Checks">
  <ul class="space-y-1.5">
    {#each open as check (check.id)}{@render item(check)}{/each}
  </ul>
  {#if fine.length > 0}
    <details class="mt-1.5" open={open.length === 0}>
      <summary class="cursor-pointer"
        ><LevelIcon level="fine" bare />
        <span class="align-middle">{fine.length} {fine.length === 1 ? 'thing is' : 'things are'} fine</span></summary
      >
      <ul class="mt-1 space-y-1">
        {#each fine as check (check.id)}{@render item(check)}{/each}
      </ul>
    </details>
  {/if}
  {#if waiting}<p class="text-base-content/70 mt-1"><span class="loading loading-spinner loading-xs"></span> {waiting}</p>{/if}
</section>
