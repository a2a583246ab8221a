<script lang="ts">
  import { onMount } from 'svelte';
  import type { Box } from '$core/geometry/box';
  import type { Matrix } from '$core/geometry/matrix';
  import type { Detail } from '$core/panels/detail';
  import type { Axis, PlannedWall } from '$core/panels/panels';
  import { openingRing, type Wall } from '$core/panels/wall';
  import { formatLength, longUnit, type LengthUnit } from '$core/units/length';
  import { docketPicture } from '$lib/ui/common/client';
  import Rulers, { RULER } from '$lib/ui/common/Rulers.svelte';
  import ZoomButtons from '$lib/ui/common/ZoomButtons.svelte';
  import { makeZoom, zoomIdentity, type ZoomHandle, type ZoomTransform } from '$lib/ui/common/zoom';
  import { boxBetween, follow, pointIn } from '$lib/ui/docket/drag';
  import { percent, placeOn, ringData, seamData } from './draw-wall';
  import { shopUnit } from '$lib/ui/common/shop-unit';

  interface Props {
    docket: { id: number; version: number; name: string };
    wall: Wall;
    planned: PlannedWall;
    /** How far the picture goes beyond the wall. */
    bleedMm: number;
    unit: LengthUnit;
    detail: Detail | undefined;
    busy: Record<Axis, { mean: number }[]>;
    /** What is being drawn with the mouse. */
    drawing: 'opening' | 'spared' | null;
    chosen: number | null;
    onseam: (axis: Axis, index: number, at: number) => void;
    onsettle: () => void;
    onopening: (index: number, at: Pick<Box, 'x' | 'y'>) => void;
    ondraw: (box: Box) => void;
    onchoose: (index: number | null) => void;
  }
  let {
    docket,
    wall,
    planned,
    bleedMm,
    unit,
    detail,
    busy,
    drawing,
    chosen,
    onseam,
    onsettle,
    onopening,
    ondraw,
    onchoose
  }: Props = $props();

  let svg: SVGSVGElement;
  let group: SVGGElement;
  let width = $state(600);
  let height = $state(400);
  let view = $state<ZoomTransform>(zoomIdentity);
  let handle: ZoomHandle | undefined;
  onMount(() => {
    handle = makeZoom(svg, (transform) => (view = transform));
    return () => handle?.destroy();
  });
  let showDetail = $state(false);

  const { size } = $derived(planned);
  const room = $derived(Math.max(bleedMm, ...Object.values(wall.bleed)));
  const fit = $derived(
    Math.max(
      1e-6,
      Math.min((width - RULER - 40) / (size.widthMm + 2 * room), (height - RULER - 110) / (size.heightMm + 2 * room))
    )
  );
  const scale = $derived(fit * view.k);
  const left = $derived((RULER + (width - RULER - size.widthMm * fit) / 2) * view.k + view.x - RULER * (view.k - 1));
  const top = $derived((RULER + (height - RULER - size.heightMm * fit) / 2) * view.k + view.y - RULER * (view.k - 1));
  const px = $derived(1 / scale);

  /** Detail as a picture: clear where it is calm. */
  const detailHref = $derived.by(() => {
    if (!detail || !showDetail) return '';
    const canvas = document.createElement('canvas');
    [canvas.width, canvas.height] = [detail.columns, detail.rows];
    const context = canvas.getContext('2d')!;
    const image = context.createImageData(detail.columns, detail.rows);
    detail.cells.forEach((cell, i) => image.data.set([20, 20, 20, Math.round(cell * 0.8)], i * 4));
    context.putImageData(image, 0, 0);
    return canvas.toDataURL();
  });

  const AXES = ['columns', 'rows'] as const;
  const WORDS: Record<Axis, string> = { columns: 'Seam', rows: 'Level seam' };
  /** Seam numbers share the head with the ruler's: those of many are left out. */
  const sparse = $derived(Math.ceil((planned.columns.length * 76) / Math.max(1, size.widthMm * scale)));

  function drag(event: PointerEvent, axis: Axis, index: number): void {
    if (event.button !== 0) return;
    (event.currentTarget as SVGElement).focus();
    const of = (e: PointerEvent) => pointIn(group, e)[axis === 'columns' ? 'x' : 'y'];
    const off = planned[axis][index]!.at - of(event);
    follow(event, (e) => onseam(axis, index, Math.round(of(e) + off)), onsettle);
  }
  const BY: Record<string, number> = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 };
  /** Arrows move a seam by 10 mm, with Shift by 1 mm. */
  function seamKeys(event: KeyboardEvent, axis: Axis, index: number): void {
    const by = BY[event.key];
    if (by === undefined || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    onseam(axis, index, planned[axis][index]!.at + by * (event.shiftKey ? 1 : 10));
    onsettle();
  }

  let moving = $state.raw<{ index: number; x: number; y: number } | null>(null);
  const openings = $derived(wall.openings.map((one, i) => (moving?.index === i ? { ...one, x: moving.x, y: moving.y } : one)));
  function moveOpening(event: PointerEvent, index: number): void {
    if (event.button !== 0) return;
    onchoose(index);
    const from = pointIn(group, event);
    const was = wall.openings[index]!;
    follow(
      event,
      (e) => {
        const at = pointIn(group, e);
        moving = { index, x: Math.round(was.x + at.x - from.x), y: Math.round(was.y + at.y - from.y) };
      },
      () => {
        const to = moving;
        moving = null;
        if (to && (to.x !== was.x || to.y !== was.y)) onopening(index, to);
      }
    );
  }
  const STEPS: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  function openingKeys(event: KeyboardEvent, index: number): void {
    const step = STEPS[event.key];
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === 'Enter' || event.key === ' ') onchoose(index);
    else if (step) {
      const by = event.shiftKey ? 1 : 10;
      const { x, y } = wall.openings[index]!;
      onopening(index, { x: x + step[0] * by, y: y + step[1] * by });
    } else return;
    event.preventDefault();
    event.stopPropagation();
  }

  let drawn = $state.raw<Box | null>(null);
  function draw(event: PointerEvent): void {
    if (event.button !== 0) return;
    const from = pointIn(group, event);
    follow(
      event,
      (e) => {
        const { x, y, width: wide, height: high } = boxBetween(from, pointIn(group, e));
        drawn = { x: Math.round(x), y: Math.round(y), width: Math.round(wide), height: Math.round(high) };
      },
      () => {
        const box = drawn;
        drawn = null;
        if (box && box.width * scale > 4 && box.height * scale > 4) ondraw(box);
      }
    );
  }
  const at = $derived<Matrix>([scale, 0, 0, scale, left, top]);
</script>

<div class="relative h-full w-full" bind:clientWidth={width} bind:clientHeight={height}>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <svg
    bind:this={svg}
    {width}
    {height}
    class="bg-base-300 block select-none {drawing ? 'cursor-crosshair' : 'cursor-grab'}"
    role="group"
    tabindex="0"
    aria-label="{docket.name}, {formatLength(size.widthMm, longUnit(shopUnit()))} × {formatLength(
      size.heightMm,
      longUnit(shopUnit())
    )}, in {planned.panels.length} panels"
  >
    <g bind:this={group} transform="matrix({at.join(' ')})">
      <rect
        class="fill-white"
        x={-wall.bleed.left}
        y={-wall.bleed.top}
        width={size.widthMm + wall.bleed.left + wall.bleed.right}
        height={size.heightMm + wall.bleed.top + wall.bleed.bottom}
      />
      <image
        href={docketPicture(docket, 1200)}
        x={-bleedMm}
        y={-bleedMm}
        width={size.widthMm + 2 * bleedMm}
        height={size.heightMm + 2 * bleedMm}
        preserveAspectRatio="none"
      />
      {#if detailHref}<image href={detailHref} width={size.widthMm} height={size.heightMm} preserveAspectRatio="none" />{/if}
      <rect width={size.widthMm} height={size.heightMm} fill="none" stroke="#333" vector-effect="non-scaling-stroke" />
      {#each wall.corners as corner, i (i)}
        <line
          x1={corner}
          x2={corner}
          y1={-room}
          y2={size.heightMm + room}
          stroke="#fff"
          stroke-width="4"
          vector-effect="non-scaling-stroke"
        />
        <line
          x1={corner}
          x2={corner}
          y1={-room}
          y2={size.heightMm + room}
          stroke="#000"
          stroke-width="2"
          stroke-dasharray="2 5"
          vector-effect="non-scaling-stroke"
        />
      {/each}
      {#each wall.spared as place, i (i)}
        <rect {...place} fill="#000" fill-opacity="0.12" stroke="#000" stroke-dasharray="3 4" vector-effect="non-scaling-stroke"
          ><title>Kept free of seams</title></rect
        >
      {/each}
      {#each planned.panels as panel (panel.index)}
        {#each Object.entries(panel.edges) as [name, edge] (name)}
          {#if edge.is === 'seam' && !edge.onTop && edge.reachMm > 0 && edge.seam.course.length === 0}
            <!-- What lies beneath the neighbour. -->
            {@const { core, box } = panel}
            <rect
              x={name === 'right' ? core.x + core.width : name === 'left' ? box.x : core.x}
              y={name === 'bottom' ? core.y + core.height : name === 'top' ? box.y : core.y}
              width={name === 'right' ? box.x + box.width - core.x - core.width : name === 'left' ? core.x - box.x : core.width}
              height={name === 'bottom'
                ? box.y + box.height - core.y - core.height
                : name === 'top'
                  ? core.y - box.y
                  : core.height}
              fill="#000"
              fill-opacity="0.35"
            />
          {/if}
        {/each}
      {/each}
      {#each openings as opening, i (i)}
        <path
          data-tool
          d={ringData(openingRing(opening))}
          fill={opening.leftOut ? '#b8b8b8' : '#fff'}
          fill-opacity={opening.leftOut ? 1 : 0.35}
          class="cursor-move outline-none {chosen === i ? 'stroke-primary' : 'focus-visible:stroke-primary stroke-black'}"
          stroke-width={chosen === i ? 3 : 1.5}
          vector-effect="non-scaling-stroke"
          role="button"
          tabindex="0"
          aria-pressed={chosen === i}
          aria-label="{opening.name || `Opening ${i + 1}`}, {formatLength(opening.x, unit)} from the left, {formatLength(
            opening.y,
            unit
          )} from the top"
          onpointerdown={(event) => moveOpening(event, i)}
          onkeydown={(event) => openingKeys(event, i)}
        />
        <g
          transform="translate({opening.x + opening.width / 2} {opening.y + opening.height / 2}) scale({px})"
          pointer-events="none"
        >
          <text class="fill-black text-[12px]" text-anchor="middle" stroke="#fff" stroke-width="3" paint-order="stroke"
            >{opening.name}</text
          >
        </g>
      {/each}
      {#each AXES as axis (axis)}
        {#each planned[axis] as seam, i (i)}
          {@const d = seamData(seam, axis, size)}
          <path {d} fill="none" stroke="#fff" stroke-width="4.5" vector-effect="non-scaling-stroke" pointer-events="none" />
          <path {d} fill="none" stroke="#000" stroke-width="1.8" vector-effect="non-scaling-stroke" pointer-events="none" />
          <path
            data-tool
            {d}
            fill="none"
            stroke="transparent"
            stroke-width="14"
            vector-effect="non-scaling-stroke"
            class="focus-visible:stroke-primary/40 outline-none {axis === 'columns' ? 'cursor-ew-resize' : 'cursor-ns-resize'}"
            role="slider"
            tabindex="0"
            aria-orientation={axis === 'columns' ? 'horizontal' : 'vertical'}
            aria-valuemin={0}
            aria-valuemax={Math.round(axis === 'columns' ? size.widthMm : size.heightMm)}
            aria-valuenow={Math.round(seam.at)}
            aria-valuetext={placeOn(seam.at, unit)}
            aria-label="{WORDS[axis]} {i + 1}"
            onpointerdown={(event) => drag(event, axis, i)}
            onkeydown={(event) => seamKeys(event, axis, i)}
          />
        {/each}
      {/each}
      {#each planned.columns as seam, i (i)}
        {#if i % Math.max(1, sparse) === 0}
          <g transform="translate({seam.at} {size.heightMm + room}) scale({px})" pointer-events="none">
            <text class="fill-base-content text-[12px] font-semibold" y="16" text-anchor="middle">{placeOn(seam.at, unit)}</text>
            {#if busy.columns[i]}<text class="fill-base-content text-[11px]" y="30" text-anchor="middle"
                >busy {percent(busy.columns[i].mean)}</text
              >{/if}
          </g>
        {/if}
      {/each}
      {#each planned.rows as seam, i (i)}
        <g transform="translate({-room} {seam.at}) scale({px})" pointer-events="none">
          <text class="fill-black text-[12px]" x="4" y="-4" stroke="#fff" stroke-width="3" paint-order="stroke"
            >{placeOn(seam.at, unit)}{busy.rows[i] ? `, busy ${percent(busy.rows[i].mean)}` : ''}</text
          >
        </g>
      {/each}
      {#each planned.panels as { index, order, core } (index)}
        <g transform="translate({core.x + core.width / 2} {core.y + 20 * px}) scale({px})" pointer-events="none">
          <circle r="13" class="fill-white stroke-black" stroke-width="1.5" />
          <text class="fill-black text-[14px] font-bold" y="5" text-anchor="middle">{order}</text>
        </g>
      {/each}
      {#if drawing}
        <rect
          data-tool
          x={-room}
          y={-room}
          width={size.widthMm + 2 * room}
          height={size.heightMm + 2 * room}
          fill="#000"
          fill-opacity="0"
          pointer-events="all"
          role="presentation"
          onpointerdown={draw}
        />
        {#if drawn}<rect
            {...drawn}
            class="fill-primary/10 stroke-primary"
            stroke-width="2"
            vector-effect="non-scaling-stroke"
            pointer-events="none"
          />{/if}
      {/if}
    </g>
    <Rulers {width} {height} {left} {top} {scale} long />
  </svg>
  <div class="bg-base-100/90 absolute top-8 left-9 flex items-center gap-3 px-2 py-1 text-xs">
    <label class="flex items-center gap-1"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={showDetail} disabled={!detail} />Where it is busy</label
    >
    {#if drawing}<span role="status"
        >{drawing === 'opening' ? 'Draw the opening on the wall.' : 'Draw the place that seams keep away from.'}</span
      >{/if}
  </div>
  <ZoomButtons whole="wall" onzoom={(factor) => handle?.by(factor)} onfit={() => handle?.fit()} />
</div>
