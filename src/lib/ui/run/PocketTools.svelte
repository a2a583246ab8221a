<script lang="ts">
  import type { PlacedCopy, StockPocket } from '$core/layout/placement';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';

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
      >Pocket <FigureBox
        sentence
        label="Lies in pocket"
        min={1}
        max={pockets.length}
        late
        value={one.pocket ?? null}
        onchange={onto}
      />
      of {pockets.length}</label
    >
  {:else}<span>{copies.length} copies</span>{/if}
  <span class="text-base-content/70 ml-auto text-xs"
    >Drag to another pocket: what lies there takes its place{byHand ? '' : '; all stay where they are then'}</span
  >
</div>
