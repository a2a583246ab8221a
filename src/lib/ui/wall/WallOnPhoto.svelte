<script lang="ts">
  import { chain, scaling, type Point } from '$core/geometry/matrix';
  import type { PlannedWall } from '$core/panels/panels';
  import { wallToPhoto } from '$core/panels/photo';
  import { boxRing, openingRing, type Wall, type WallPhoto } from '$core/panels/wall';
  import type { LengthUnit } from '$core/units/length';
  import { docketPicture } from '$lib/ui/common/client';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import { follow, pointIn } from '$lib/ui/docket/drag';
  import { ringData, seamData } from './draw-wall';

  /** The wall as it will hang, on a photo of where it hangs: two points of the photo, whose places on the wall are typed, say how it lies. */
  let {
    docket,
    wall,
    planned,
    photo,
    bleedMm,
    unit,
    onchange,
    onremove
  }: {
    docket: { id: number; version: number; name: string };
    wall: Wall;
    planned: PlannedWall;
    photo: WallPhoto;
    bleedMm: number;
    unit: LengthUnit;
    onchange: (photo: WallPhoto) => void;
    onremove: () => void;
  } = $props();

  let width = $state(600);
  let height = $state(400);
  let group: SVGGElement;
  let strength = $state(100);
  let showSeams = $state(true);
  let isGone = $state(false);
  /** A photo of a wide place is as wide as there is room. */
  const scale = $derived(Math.max(10, Math.min(width - 20, (height - 100) / photo.aspect)));
  const left = $derived((width - scale) / 2);
  const top = $derived(Math.max(10, (height - 90 - scale * photo.aspect) / 2));

  let moving = $state.raw<{ index: number; u: number; v: number } | null>(null);
  const points = $derived(photo.points.map((point, i) => (moving?.index === i ? { ...point, u: moving.u, v: moving.v } : point)));
  const matrix = $derived(wallToPhoto({ ...photo, points }));
  const onScreen = $derived(matrix && chain(matrix, scaling(scale)));
  const { size } = $derived(planned);
  /** All that prints: the wall without what is left out of it. */
  const printed = $derived(
    [
      boxRing({ x: 0, y: 0, width: size.widthMm, height: size.heightMm }),
      ...wall.openings.filter(({ leftOut }) => leftOut).map(openingRing)
    ]
      .map(ringData)
      .join('')
  );
  const put = (index: number, part: Partial<WallPhoto['points'][number]>) =>
    onchange({ ...photo, points: photo.points.map((point, i) => (i === index ? { ...point, ...part } : point)) });
  const share = (at: Point) => ({ u: at.x / scale, v: at.y / (scale * photo.aspect) });
  function drag(event: PointerEvent, index: number): void {
    if (event.button !== 0) return;
    (event.currentTarget as SVGElement).focus();
    follow(
      event,
      (e) => (moving = { index, ...share(pointIn(group, e)) }),
      () => {
        if (moving) put(index, { u: moving.u, v: moving.v });
        moving = null;
      }
    );
  }
  const STEPS: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  function keys(event: KeyboardEvent, index: number): void {
    const step = STEPS[event.key];
    if (!step || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    const by = event.shiftKey ? 0.0005 : 0.005;
    const { u, v } = photo.points[index]!;
    put(index, { u: u + step[0] * by, v: v + (step[1] * by) / photo.aspect });
  }
  const NAMES = ['first', 'second'];
</script>

<div class="bg-base-300 relative h-full w-full" bind:clientWidth={width} bind:clientHeight={height}>
  <svg {width} {height} class="block select-none" role="group" aria-label="{docket.name} on a photo of its wall">
    <g bind:this={group} transform="translate({left} {top})">
      <image
        href="/api/artworks/{photo.artworkId}/preview?width=1200"
        width={scale}
        height={scale * photo.aspect}
        preserveAspectRatio="none"
        onerror={() => (isGone = true)}
      />
      {#if onScreen}
        <g transform="matrix({onScreen.join(' ')})">
          <clipPath id="printed-wall"><path d={printed} clip-rule="evenodd" /></clipPath>
          <image
            clip-path="url(#printed-wall)"
            href={docketPicture(docket, 1200)}
            x={-bleedMm}
            y={-bleedMm}
            width={size.widthMm + 2 * bleedMm}
            height={size.heightMm + 2 * bleedMm}
            preserveAspectRatio="none"
            opacity={strength / 100}
          />
          {#if showSeams}
            {#each planned.columns as seam, i (i)}<path
                d={seamData(seam, 'columns', size)}
                fill="none"
                stroke="#000"
                stroke-dasharray="5 4"
                vector-effect="non-scaling-stroke"
              />{/each}
            {#each planned.rows as seam, i (i)}<path
                d={seamData(seam, 'rows', size)}
                fill="none"
                stroke="#000"
                stroke-dasharray="5 4"
                vector-effect="non-scaling-stroke"
              />{/each}
          {/if}
          <path d={printed} fill="none" stroke="#fff" vector-effect="non-scaling-stroke" />
        </g>
      {/if}
      {#each points as { u, v }, i (i)}
        <g transform="translate({u * scale} {v * scale * photo.aspect})">
          <circle
            r="9"
            class="fill-base-100/60 stroke-primary cursor-move outline-none focus-visible:stroke-[4]"
            stroke-width="2.5"
            role="slider"
            tabindex="0"
            aria-label="The {NAMES[i]} point"
            aria-valuenow={Math.round(u * 1000)}
            aria-valuemin={0}
            aria-valuemax={1000}
            aria-valuetext="{Math.round(u * 100)} % across, {Math.round(v * 100)} % down"
            onpointerdown={(event) => drag(event, i)}
            onkeydown={(event) => keys(event, i)}
          />
          <text class="fill-black text-[12px] font-bold" x="12" y="-8" stroke="#fff" stroke-width="3" paint-order="stroke"
            >{i + 1}</text
          >
        </g>
      {/each}
    </g>
  </svg>
  <div class="bg-base-100/90 absolute bottom-2 left-2 flex flex-wrap items-center gap-x-3 gap-y-1 px-2 py-1 text-sm">
    {#if isGone}<span class="text-error" role="alert">The photo is gone. Take another one.</span>{/if}
    {#if !matrix}<span class="text-error" role="alert">The two points are one: move them apart.</span>{/if}
    {#each photo.points as point, i (i)}
      <span
        >Point {i + 1} is <LengthBox
          sentence
          label="Point {i + 1} from the left of the wall"
          {unit}
          value={point.x}
          min={-50_000}
          onchange={(x) => put(i, { x })}
        /> from the left,
        <LengthBox
          sentence
          label="Point {i + 1} from the top of the wall"
          {unit}
          value={point.y}
          min={-50_000}
          onchange={(y) => put(i, { y })}
        /> from the top.</span
      >
    {/each}
    <label class="flex items-center gap-1"
      >Print <input
        type="range"
        class="range range-xs w-24"
        min="10"
        max="100"
        bind:value={strength}
        aria-label="How strong the print is seen"
      /></label
    >
    <label class="flex items-center gap-1"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={showSeams} />Seams</label
    >
    <button class="btn btn-xs" onclick={onremove}>Without the photo</button>
  </div>
</div>
