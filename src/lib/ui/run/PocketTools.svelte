<script lang="ts">
  import type { PlacedCopy, StockPocket } from '$core/layout/placement';

  /** What is done to copies that are chosen in a jig. */
  let {
    copies,
    pockets,
    byHand,
    onto
  }: {
    copies: readonly PlacedCopy[];
    pockets: readonly StockPocket[];
    byHand: boolean;
    /** The first of them goes into a pocket; what lies there takes its place. */
    onto: (pocket: number) => void;
  } = $props();
  const one = $derived(copies[0]);
</script>

<div
  class="bg-base-200 border-base-300 flex flex-wrap items-center gap-2 border-b px-4 py-1 text-sm"
  role="toolbar"
  aria-label="Copies that are chosen"
>
  {#if copies.length === 1 && one}
    <label
      >Pocket <input
        class="in-sentence w-16 text-right"
        type="number"
        min="1"
        max={pockets.length}
        aria-label="Lies in pocket"
        value={one.pocket}
        onchange={(event) => {
          const { currentTarget: input } = event;
          const wanted = input.valueAsNumber;
          if (pockets.some(({ number }) => number === wanted)) onto(wanted);
          else input.value = String(one.pocket);
        }}
      />
      of {pockets.length}</label
    >
  {:else}<span>{copies.length} copies</span>{/if}
  <span class="text-base-content/70 ml-auto text-xs"
    >Drag to another pocket: what lies there takes its place{byHand ? '' : '; all stay where they are then'}</span
  >
</div>
