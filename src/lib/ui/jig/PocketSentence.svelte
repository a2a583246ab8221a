<script lang="ts">
  import { ANCHORS } from '$core/layout/placement';
  import type { LengthUnit } from '$core/units/length';
  import type { InPocket } from '$lib/in-jig';
  import ChoiceBox from '$lib/ui/common/ChoiceBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';

  /** How each piece lies in its pocket, as a sentence. */
  let {
    rule,
    unit,
    what = 'Each piece lies',
    onchange
  }: { rule: InPocket; unit: LengthUnit; what?: string; onchange: (part: Partial<InPocket>) => void } = $props();

  const PLACES = ANCHORS.map((anchor) => [anchor, anchor] as const);
  const SIZES = [['own', 'at its own size'], ['fit', 'as large as it fits whole'], ['fill', 'as large as covers all of it']] as const; // prettier-ignore
  const TURNS = [[0, 'upright'], [90, 'turned right'], [180, 'upside down'], [270, 'turned left']] as const; // prettier-ignore
  const EDGES = [['cut off', 'is cut off at the edge'], ['over', 'prints over the edge'], ['inside', 'is refused, and with it the run']] as const; // prettier-ignore
  const SIDES = [['front', 'face up'], ['back', 'turned over, left to right']] as const; // prettier-ignore
</script>

{what} in its pocket’s
<ChoiceBox label="In its pocket" value={rule.anchor} words={PLACES} onchange={(anchor) => onchange({ anchor })} />,
<ChoiceBox label="How large in its pocket" value={rule.size} words={SIZES} onchange={(size) => onchange({ size })} />,
{#if rule.anchor !== 'middle' || rule.size === 'fit'}<LengthBox
    sentence
    label="From the pocket’s edge"
    {unit}
    value={rule.marginMm}
    max={500}
    onchange={(marginMm) => onchange({ marginMm })}
  /> from its edge,{/if}
<ChoiceBox label="Turned in its pocket" value={rule.turn} words={TURNS} onchange={(turn) => onchange({ turn })} />; what is larger
<ChoiceBox label="What is larger" value={rule.edge} words={EDGES} onchange={(edge) => onchange({ edge })} />. Things lie
<ChoiceBox label="Things lie" value={rule.side} words={SIDES} onchange={(side) => onchange({ side })} />.
