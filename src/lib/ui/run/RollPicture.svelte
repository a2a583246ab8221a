<script lang="ts">
  import { onMount } from 'svelte';
  import type { RunLayout } from '$core/layout/run-layout';
  import { formatMetres } from '$core/units/length';
  import type { Docket } from '$lib/server/dockets';
  import Rulers, { RULER } from '$lib/ui/common/Rulers.svelte';
  import ZoomButtons from '$lib/ui/common/ZoomButtons.svelte';
  import { makeZoom, zoomIdentity, type ZoomHandle, type ZoomTransform } from '$lib/ui/common/zoom';
  import Copies from './Copies.svelte';

  interface Props {
    layout: RunLayout;
    dockets: Docket[];
    rollWidth: number;
    /** What the machine has printed of it, mm. */
    printed?: number;
    onclaim?: (docketId: string) => void;
  }
  let { layout, dockets, rollWidth, printed = 0, onclaim }: Props = $props();

  let svg: SVGSVGElement;
  let width = $state(800);
  let height = $state(400);
  let view = $state<ZoomTransform>(zoomIdentity);
  let handle: ZoomHandle | undefined;
  onMount(() => {
    handle = makeZoom(svg, (transform) => (view = transform));
    return () => handle?.destroy();
  });

  const length = $derived(Math.max(layout.length, 200));
  /** Pixels a mm when all of the run is seen. */
  const fit = $derived(Math.min((width - RULER - 60) / length, (height - RULER - 24) / rollWidth));
  const scale = $derived(fit * view.k);
  const left = $derived(RULER + 8 + view.x);
  const top = $derived(RULER + 8 + view.y);

  const byId = $derived(new Map(dockets.map((docket) => [String(docket.id), docket])));
  // The roll lies on its side: along goes right, the left edge is at the bottom.
  const lying = $derived(`matrix(0 ${-scale} ${scale} 0 ${left} ${top + rollWidth * scale})`);
</script>

<div class="relative h-full min-h-0 w-full" bind:clientWidth={width} bind:clientHeight={height}>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <svg
    bind:this={svg}
    {width}
    {height}
    class="bg-base-300 block cursor-grab select-none"
    role="img"
    tabindex="0"
    aria-label="The run on its roll, {formatMetres(layout.length)} of {Math.round(rollWidth)} mm wide media"
  >
    <g transform={lying}>
      <rect class="fill-white" x="0" y="0" width={rollWidth} height={length} />
      <Copies name="roll" copies={layout.copies} {dockets} {scale} />
      {#each layout.marks as mark, i (i)}
        <circle cx={mark.x} cy={mark.y} r={mark.diameter / 2} fill="#000" />
      {/each}
      {#each layout.ghosts as ghost, i (i)}
        <rect
          x={ghost.x}
          y={ghost.y}
          width={ghost.width}
          height={ghost.height}
          fill="#0000000a"
          stroke="#666"
          stroke-dasharray="5 4"
          vector-effect="non-scaling-stroke"
        />
      {/each}
      {#if printed > 0}
        <line x1="0" x2={rollWidth} y1={printed} y2={printed} stroke="#000" stroke-width="3" vector-effect="non-scaling-stroke" />
      {/if}
    </g>
    <!-- The machine pays the roll out to the right; its core is drawn at the left edge. -->
    <Rulers {width} {height} {left} {top} {scale} from={0} mostDown={rollWidth} metres />
  </svg>
  {#if onclaim}
    {#each layout.ghosts as ghost, i (i)}
      {@const name = byId.get(ghost.id)?.name ?? ''}
      {@const w = ghost.height * scale}
      {@const h = ghost.width * scale}
      {#if w > 14 && h > 10}
        <button
          class="text-primary hover:bg-primary/20 absolute flex items-center justify-center overflow-hidden text-lg font-semibold"
          style="left: {left + ghost.y * scale}px; top: {top +
            (rollWidth - ghost.x - ghost.width) * scale}px; width: {w}px; height: {h}px"
          onclick={() => onclaim(ghost.id)}
          aria-label="Claim a spare copy of {name}: it costs no film"
          title="One more {name}: it costs no film">+</button
        >
      {/if}
    {/each}
  {/if}
  <ZoomButtons whole="run" onzoom={(factor) => handle?.by(factor)} onfit={() => handle?.fit()} />
</div>
