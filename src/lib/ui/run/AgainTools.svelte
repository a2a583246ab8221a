<script lang="ts">
  import type { PlacedCopy } from '$core/layout/placement';

  interface Props {
    copies: readonly PlacedCopy[];
    /** Of the copies that have one. */
    records: readonly number[];
    /** Of their dockets. */
    names: readonly string[];
    /** Prints them once more; none while the run is laid out. */
    onagain?: (() => void) | undefined;
    /** Puts panels into a run of their own; none where that cannot be. */
    onapart?: (() => void) | undefined;
  }
  let { copies, records, names, onagain, onapart }: Props = $props();

  const sorted = $derived([...new Set(records)].sort((p, q) => p - q));
</script>

<div
  class="bg-base-200 border-base-300 flex flex-wrap items-center gap-2 border-b px-4 py-1 text-sm"
  role="toolbar"
  aria-label="Copies that are chosen"
>
  <span
    >{copies.length === 1 ? 'One copy' : `${copies.length} copies`} of {names.join(', ')}{#if sorted.length > 0}:
      <span class="font-semibold"
        >record{sorted.length === 1 ? '' : 's'}
        {sorted.slice(0, 12).join(', ')}{sorted.length > 12 ? ` and ${sorted.length - 12} more` : ''}</span
      >{/if}</span
  >
  {#if onapart}<button class="btn btn-xs" onclick={onapart}
      >Put {copies.length === 1 ? 'it' : 'them'} into a run of {copies.length === 1 ? 'its' : 'their'} own</button
    >{/if}
  {#if onagain}
    <button class="btn btn-xs" onclick={onagain}>Print {copies.length === 1 ? 'it' : 'them'} again</button>
    <span class="text-base-content/70 ml-auto text-xs">Shift adds; in a run of its own, as the docket is now</span>
  {/if}
</div>
