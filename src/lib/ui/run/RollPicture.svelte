<script lang="ts">
  import { onMount } from 'svelte';
  import type { RunLayout } from '$core/layout/run-layout';
  import { formatMetres } from '$core/units/length';
  import type { Docket } from '$lib/server/dockets';
  import { makeZoom, rulerStep, ticks, zoomIdentity, type ZoomHandle, type ZoomTransform } from '$lib/ui/common/zoom';

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

  const RULER = 26;
  const length = $derived(Math.max(layout.length, 200));
  /** Pixels a mm when all of the run is seen. */
  const fit = $derived(Math.min((width - RULER - 60) / length, (height - RULER - 24) / rollWidth));
  const scale = $derived(fit * view.k);
  const left = $derived(RULER + 8 + view.x);
  const top = $derived(RULER + 8 + view.y);
  const step = $derived(rulerStep(scale));
  const along = $derived(ticks(-left / scale, (width - left) / scale, step));
  const across = $derived(ticks(-top / scale, (height - top) / scale, step));

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
    <defs>
      {#each dockets as docket (docket.id)}
        {@const { choices, artwork } = docket}
        {@const sx = choices.widthMm / artwork.facts.widthMm}
        {@const sy = choices.heightMm / artwork.facts.heightMm}
        {@const bleed = Math.min(artwork.facts.bleedMm, 100)}
        <g id="art-{docket.id}">
          <clipPath id="clip-{docket.id}"
            ><rect
              x={-choices.bleedMm}
              y={-choices.bleedMm}
              width={choices.widthMm + 2 * choices.bleedMm}
              height={choices.heightMm + 2 * choices.bleedMm}
            /></clipPath
          >
          <image
            href="/api/artworks/{docket.artworkId}/preview?page={docket.page}&width={choices.widthMm * scale > 200 ? 1200 : 240}"
            x={-bleed * sx}
            y={-bleed * sy}
            width={(artwork.facts.widthMm + 2 * bleed) * sx}
            height={(artwork.facts.heightMm + 2 * bleed) * sy}
            preserveAspectRatio="none"
            clip-path="url(#clip-{docket.id})"
          />
        </g>
      {/each}
    </defs>
    <g transform={lying}>
      <rect class="fill-white" x="0" y="0" width={rollWidth} height={length} />
      {#each layout.copies as copy, i (i)}
        {@const docket = byId.get(copy.id)}
        {#if docket}
          <g
            transform="translate({copy.x} {copy.y}){copy.turned ? ` matrix(0 1 -1 0 ${copy.width} 0)` : ''} translate({docket
              .choices.bleedMm} {docket.choices.bleedMm})"
          >
            <use href="#art-{docket.id}" />
          </g>
          <rect
            x={copy.x}
            y={copy.y}
            width={copy.width}
            height={copy.height}
            fill="none"
            stroke="#777"
            vector-effect="non-scaling-stroke"
            stroke-width="0.6"
          />
        {/if}
      {/each}
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
    <g class="fill-base-200"><rect x="0" y="0" {width} height={RULER} /><rect x="0" y="0" width={RULER} {height} /></g>
    <g class="fill-base-content text-[10px]" aria-hidden="true">
      {#each along as mm (mm)}
        {@const x = left + mm * scale}
        {#if x > RULER && mm >= 0}<line x1={x} x2={x} y1={RULER - 7} y2={RULER} stroke="currentColor" /><text
            {x}
            y={RULER - 10}
            text-anchor="middle">{step >= 100 ? `${mm / 1000} m` : mm}</text
          >{/if}
      {/each}
      {#each across as mm (mm)}
        {@const y = top + mm * scale}
        {#if y > RULER && mm >= 0 && mm <= rollWidth}<line x1={RULER - 7} x2={RULER} y1={y} y2={y} stroke="currentColor" /><text
            x={RULER - 9}
            {y}
            text-anchor="middle"
            transform="rotate(-90 {RULER - 12} {y})">{mm}</text
          >{/if}
      {/each}
    </g>
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
  <div class="absolute right-2 bottom-2 flex gap-1">
    <button class="btn btn-xs" onclick={() => handle?.by(1.5)} aria-label="Zoom in">+</button>
    <button class="btn btn-xs" onclick={() => handle?.by(1 / 1.5)} aria-label="Zoom out">−</button>
    <button class="btn btn-xs" onclick={() => handle?.fit()}>Whole run</button>
  </div>
</div>
