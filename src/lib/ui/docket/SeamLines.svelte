<script lang="ts">
  import type { PlannedWall } from '$core/panels/panels';
  import { seamData } from '$lib/ui/wall/draw-wall';

  /** Where panels of a wall meet, and their numbers, over its artwork. @param scale pixels a mm */
  let { planned, scale }: { planned: PlannedWall; scale: number } = $props();
</script>

<g pointer-events="none">
  {#each ['columns', 'rows'] as const as axis (axis)}
    {#each planned[axis] as seam, i (i)}
      {@const d = seamData(seam, axis, planned.size)}
      <path {d} fill="none" stroke="#fff" stroke-width="3" vector-effect="non-scaling-stroke" />
      <path {d} fill="none" stroke="#000" stroke-dasharray="6 4" vector-effect="non-scaling-stroke" />
    {/each}
  {/each}
  {#each planned.panels as { index, order, core } (index)}
    <g transform="translate({core.x + core.width / 2} {core.y + 16 / scale}) scale({1 / scale})">
      <circle r="11" class="fill-white stroke-black" />
      <text class="fill-black text-[12px] font-bold" y="4" text-anchor="middle">{order}</text>
    </g>
  {/each}
</g>
