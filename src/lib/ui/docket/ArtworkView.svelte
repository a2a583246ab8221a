<script lang="ts">
  import { onMount } from 'svelte';
  import { pathData, type Path } from '$core/geometry/path';
  import { formatLength, type LengthUnit } from '$core/units/length';
  import type { Docket } from '$lib/server/dockets';
  import type { DocketChoices } from '$lib/model';
  import Rulers, { RULER } from '$lib/ui/common/Rulers.svelte';
  import ZoomButtons from '$lib/ui/common/ZoomButtons.svelte';
  import { makeZoom, zoomIdentity, type ZoomHandle, type ZoomTransform } from '$lib/ui/common/zoom';

  interface Props {
    docket: Docket;
    choices: DocketChoices;
    unit: LengthUnit;
  }
  let { docket, choices, unit }: Props = $props();

  let svg: SVGSVGElement;
  let width = $state(600);
  let height = $state(400);
  let view = $state<ZoomTransform>(zoomIdentity);
  let showArtwork = $state(true);
  let showCut = $state(true);
  let handle: ZoomHandle | undefined;
  onMount(() => {
    handle = makeZoom(svg, (transform) => (view = transform));
    return () => handle?.destroy();
  });

  const facts = $derived(docket.artwork.facts);
  const sx = $derived(choices.widthMm / facts.widthMm);
  const sy = $derived(choices.heightMm / facts.heightMm);
  const pageBleed = $derived(Math.min(facts.bleedMm, 100));
  const room = $derived(Math.max(choices.bleedMm, 1));
  const fit = $derived(
    Math.max(
      1e-6,
      Math.min((width - RULER - 60) / (choices.widthMm + 2 * room), (height - RULER - 60) / (choices.heightMm + 2 * room))
    )
  );
  const scale = $derived(fit * view.k);
  // Middle of the free area at first; the zoom moves it from there.
  const left = $derived((RULER + (width - RULER - choices.widthMm * fit) / 2) * view.k + view.x - RULER * (view.k - 1));
  const top = $derived((RULER + (height - RULER - choices.heightMm * fit) / 2) * view.k + view.y - RULER * (view.k - 1));
  const cutPath = $derived(facts.cutPaths.map((cut) => pathData(cut.path as Path)).join(''));
</script>

<div class="relative h-full w-full" bind:clientWidth={width} bind:clientHeight={height}>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <svg
    bind:this={svg}
    {width}
    {height}
    class="bg-base-300 block cursor-grab select-none"
    role="img"
    tabindex="0"
    aria-label="{docket.name} at {formatLength(choices.widthMm, unit)} × {formatLength(choices.heightMm, unit)}"
  >
    <clipPath id="printed"
      ><rect
        x={-choices.bleedMm}
        y={-choices.bleedMm}
        width={choices.widthMm + 2 * choices.bleedMm}
        height={choices.heightMm + 2 * choices.bleedMm}
      /></clipPath
    >
    <g transform="matrix({scale} 0 0 {scale} {left} {top})">
      <rect
        class="fill-white"
        x={-choices.bleedMm}
        y={-choices.bleedMm}
        width={choices.widthMm + 2 * choices.bleedMm}
        height={choices.heightMm + 2 * choices.bleedMm}
      />
      {#if showArtwork}
        <image
          href="/api/artworks/{docket.artworkId}/preview?page={docket.page}&width={view.k > 3 ? 2400 : 1200}"
          x={-pageBleed * sx}
          y={-pageBleed * sy}
          width={(facts.widthMm + 2 * pageBleed) * sx}
          height={(facts.heightMm + 2 * pageBleed) * sy}
          preserveAspectRatio="none"
          clip-path="url(#printed)"
        />
      {/if}
      <rect
        width={choices.widthMm}
        height={choices.heightMm}
        fill="none"
        stroke="#555"
        stroke-dasharray="6 3"
        vector-effect="non-scaling-stroke"
      />
      {#if showCut && choices.cut}
        <path
          d={cutPath}
          transform="scale({sx} {sy})"
          fill="none"
          stroke="#fff"
          stroke-width="3.5"
          vector-effect="non-scaling-stroke"
        />
        <path
          d={cutPath}
          transform="scale({sx} {sy})"
          fill="none"
          stroke="#000"
          stroke-width="1.5"
          stroke-dasharray="7 4"
          vector-effect="non-scaling-stroke"
        />
      {/if}
    </g>
    <Rulers {width} {height} {left} {top} {scale} />
  </svg>
  <div class="bg-base-100/90 absolute top-8 left-9 flex gap-3 px-2 py-1 text-xs">
    <label class="flex items-center gap-1"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={showArtwork} />Artwork</label
    >
    {#if choices.cut}<label class="flex items-center gap-1"
        ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={showCut} />Cut lines</label
      >{/if}
  </div>
  <ZoomButtons whole="page" onzoom={(factor) => handle?.by(factor)} onfit={() => handle?.fit()} />
</div>
