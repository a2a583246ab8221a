<script lang="ts">
  import type { RunPiece } from '$core/layout/run-piece';
  import { counted } from '$core/units/counted';
  import { batchWords, type PanelBatches } from '$lib/batches';
  import { tape } from '$lib/ui/common/shop-unit';
  /** What is to be said of a run of a wall before it is printed: its colour holds on one roll, and a panel must come out whole. */
  let {
    pieces,
    lengthMm,
    roll,
    batches
  }: {
    /** Those that are panels. */
    pieces: readonly RunPiece[];
    lengthMm: number;
    /** What is on the machine of its media; none while it is another. */
    roll: { lengthMm: number } | undefined;
    batches: PanelBatches | null;
  } = $props();

  const batch = $derived(batchWords(batches ?? { before: [], now: null }));
  const copies = $derived(pieces.reduce((sum, piece) => sum + piece.copies, 0));
  const longest = $derived(
    pieces.reduce((most, { widthMm, heightMm, finishing }) => Math.max(most, finishing.turn % 180 === 0 ? heightMm : widthMm), 0)
  );
</script>

<p class="border-base-300 border-b px-4 py-1 text-sm" role="note" aria-label="Panels">
  {counted(copies, 'panel')} of a wall.
  <span class={batch.isOther ? 'text-error font-semibold' : ''}>{batch.words}</span>
  {#if roll && roll.lengthMm < longest}
    <span class="text-error font-semibold"
      >Only {tape(roll.lengthMm)} are on the machine, and a panel is {tape(longest)} long: it would not come out whole.</span
    >
  {:else if roll && roll.lengthMm < lengthMm}
    <span class="font-semibold"
      >{tape(roll.lengthMm)} are on the machine, the run takes {tape(lengthMm)}: load a fuller roll, or put panels into a run of
      their own.</span
    >
  {/if}
</p>
