<script lang="ts">
  import { ANCHORS, EDGES, POCKET_SIZES, SIDES, type PocketRule } from '$core/layout/placement';
  import type { LengthUnit } from '$core/units/length';
  import type { InPocket } from '$lib/in-jig';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';

  /** How each piece lies in its pocket, as a sentence. */
  let {
    rule,
    unit,
    what = 'Each piece lies',
    onchange
  }: { rule: InPocket; unit: LengthUnit; what?: string; onchange: (part: Partial<InPocket>) => void } = $props();

  const TURNS = { 0: 'upright', 90: 'turned right', 180: 'upside down', 270: 'turned left' };
  const EDGE_WORDS: Record<PocketRule['edge'], string> = {
    'cut off': 'is cut off at the edge',
    over: 'prints over the edge',
    inside: 'is refused, and with it the run'
  };
  const SIZE_WORDS: Record<PocketRule['size'], string> = {
    own: 'at its own size',
    fit: 'as large as it fits whole',
    fill: 'as large as covers all of it'
  };
  const SIDE_WORDS: Record<PocketRule['side'], string> = { front: 'face up', back: 'turned over, left to right' };
</script>

{what} in its pocket’s
<select
  class="in-sentence"
  aria-label="In its pocket"
  value={rule.anchor}
  onchange={(event) => onchange({ anchor: event.currentTarget.value as PocketRule['anchor'] })}
>
  {#each ANCHORS as anchor (anchor)}<option value={anchor}>{anchor}</option>{/each}
</select>,
<select
  class="in-sentence"
  aria-label="How large in its pocket"
  value={rule.size}
  onchange={(event) => onchange({ size: event.currentTarget.value as PocketRule['size'] })}
>
  {#each POCKET_SIZES as size (size)}<option value={size}>{SIZE_WORDS[size]}</option>{/each}
</select>,
{#if rule.anchor !== 'middle' || rule.size === 'fit'}<LengthBox
    sentence
    label="From the pocket’s edge"
    {unit}
    value={rule.marginMm}
    max={500}
    onchange={(marginMm) => onchange({ marginMm })}
  /> from its edge,{/if}
<select
  class="in-sentence"
  aria-label="Turned in its pocket"
  value={String(rule.turn)}
  onchange={(event) => onchange({ turn: Number(event.currentTarget.value) as PocketRule['turn'] })}
>
  {#each Object.entries(TURNS) as [turn, words] (turn)}<option value={turn}>{words}</option>{/each}
</select>; what is larger
<select
  class="in-sentence"
  aria-label="What is larger"
  value={rule.edge}
  onchange={(event) => onchange({ edge: event.currentTarget.value as PocketRule['edge'] })}
>
  {#each EDGES as edge (edge)}<option value={edge}>{EDGE_WORDS[edge]}</option>{/each}
</select>. Things lie
<select
  class="in-sentence"
  aria-label="Things lie"
  value={rule.side}
  onchange={(event) => onchange({ side: event.currentTarget.value as PocketRule['side'] })}
>
  {#each SIDES as side (side)}<option value={side}>{SIDE_WORDS[side]}</option>{/each}
</select>.
