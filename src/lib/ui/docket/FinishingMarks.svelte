<script lang="ts">
  import { beyondMm } from '$core/artwork/choices';
  import { evenSides } from '$core/geometry/box';
  import { finishingShapes } from '$core/marks/finishing';
  import type { DocketChoices } from '$lib/docket-choices';

  interface Props {
    choices: DocketChoices;
    caption: string;
  }
  let { choices, caption }: Props = $props();

  const shapes = $derived(
    finishingShapes({ ...choices, bleed: evenSides(beyondMm(choices)) }, choices.finishing, caption, {
      number: 0,
      of: choices.copies
    })
  );
</script>

<!-- Marks, folds, eyelets and the caption, in mm of the finished size; a pale rim keeps them seen on dark artwork. -->
{#each shapes as shape, i (i)}
  {#if shape.kind === 'bar'}
    <rect
      x={shape.x}
      y={shape.y}
      width={shape.width}
      height={shape.height}
      fill="#000"
      stroke="#000"
      stroke-width="0.6"
      vector-effect="non-scaling-stroke"
    />
  {:else if shape.kind === 'text'}
    <text x={shape.x} y={shape.y + shape.heightMm} font-size={shape.heightMm / 0.72} fill="#000">{shape.text}</text>
  {:else if shape.shape === 'ring'}
    {#each [['#fff', 3], ['#000', 1.2]] as const as [stroke, width] (stroke)}
      <circle
        cx={shape.x}
        cy={shape.y}
        r={shape.diameter / 2}
        fill="none"
        {stroke}
        stroke-width={width}
        vector-effect="non-scaling-stroke"
      />
    {/each}
  {:else}
    {@const r = shape.diameter / 2}
    {#each [['#fff', 3], ['#000', 1.2]] as const as [stroke, width] (stroke)}
      <path
        d="M{shape.x - r} {shape.y}h{2 * r}M{shape.x} {shape.y - r}v{2 * r}"
        {stroke}
        stroke-width={width}
        vector-effect="non-scaling-stroke"
      />
    {/each}
  {/if}
{/each}
