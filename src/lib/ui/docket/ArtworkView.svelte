<script lang="ts">
  import { onMount, untrack, type Snippet } from 'svelte';
  import { beyondMm } from '$core/artwork/choices';
  import { evenSides, type Box } from '$core/geometry/box';
  import { pageToFinished, readToFinished, wholePage, type Preparation } from '$core/artwork/preparation';
  import { TOOLS } from '$core/artwork/roles';
  import type { Check } from '$core/checks/check';
  import type { FinishedLine } from '$core/cutting/docket-lines';
  import { apply } from '$core/geometry/matrix';
  import { pathData } from '$core/geometry/path';
  import { isPlain, type Stack } from '$core/inks/stack';
  import type { Press } from '$core/media/press';
  import { formatLength, type LengthUnit } from '$core/units/length';
  import type { Docket } from '$lib/server/dockets/dockets';
  import type { DocketChoices } from '$lib/docket-choices';
  import { NO_FINISHING, roomOf } from '$core/marks/finishing';
  import { recordPicture } from '$lib/ui/common/client';
  import LevelIcon from '$lib/ui/common/LevelIcon.svelte';
  import { layerName } from './ticket/layer-words';
  import FinishingMarks from './FinishingMarks.svelte';
  import Rulers, { RULER } from '$lib/ui/common/Rulers.svelte';
  import ZoomButtons from '$lib/ui/common/ZoomButtons.svelte';
  import { makeZoom, zoomIdentity, type ZoomHandle, type ZoomTransform } from '$lib/ui/common/zoom';

  interface Props {
    docket: Docket;
    choices: DocketChoices;
    preparation: Preparation;
    lines: readonly FinishedLine[];
    checks: readonly Check[];
    /** The check that is being looked at. */
    shownCheck: string | null;
    unit: LengthUnit;
    /** Maps can be drawn: the docket has a condition with a profile. */
    measurable: boolean;
    /** Another whenever a named colour of the shop is. */
    coloursVersion: number;
    /** What it is printed in, and on what. */
    stack: Stack;
    press: Press | undefined;
    totalInkLimit: number;
    deltaLimit: number;
    /** The whole page is seen behind the finished size. */
    whole?: boolean;
    /** A line that is being edited is drawn by its editor. */
    hidden?: string | null;
    /** Tools over the artwork, in mm of the finished size; told the pixels a mm. */
    tool?: Snippet<[number]>;
    /** The record whose fields are seen on it; none where all copies are the same. */
    record?: number | null;
    onpick?: (check: Check) => void;
  }
  let {
    docket,
    choices,
    preparation,
    lines,
    checks,
    shownCheck,
    unit,
    measurable,
    coloursVersion,
    stack,
    press,
    totalInkLimit,
    deltaLimit,
    whole = false,
    hidden = null,
    tool,
    record = null,
    onpick
  }: Props = $props();

  let svg: SVGSVGElement;
  let width = $state(600);
  let height = $state(400);
  let view = $state<ZoomTransform>(zoomIdentity);
  /** What is seen: the artwork, its proof, its layers from a side, or one of them by its number. */
  let picture = $state<'artwork' | 'proof' | 'none' | 'front' | 'behind' | `layer ${number}`>('artwork');
  /** What is behind the print. */
  let backing = $state('#ffffff');
  let map = $state<'' | 'ink' | 'gamut'>('');
  let showCut = $state(true);
  let showChecks = $state(true);
  let showMarks = $state(true);
  const marksThere = $derived(JSON.stringify(choices.finishing) !== JSON.stringify(NO_FINISHING));
  let handle: ZoomHandle | undefined;
  onMount(() => {
    handle = makeZoom(svg, (transform) => (view = transform));
    return () => handle?.destroy();
  });

  const room = $derived(
    Math.max(1, ...Object.values(roomOf({ ...choices, bleed: evenSides(beyondMm(choices)) }, choices.finishing)))
  );
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

  const boxBeyond = (mm: number) => ({ x: -mm, y: -mm, width: choices.widthMm + 2 * mm, height: choices.heightMm + 2 * mm });
  const printed = $derived(boxBeyond(choices.bleedMm));
  /** What pictures of layers show: some may reach farther than the bleed. */
  const laidBox = $derived(boxBeyond(beyondMm(choices)));
  const address = (piece: object) =>
    `/api/artworks/${docket.artworkId}/piece?page=${docket.page}&px=${view.k > 6 ? 4800 : view.k > 2 ? 2400 : 1200}&colours=${coloursVersion}&piece=${encodeURIComponent(JSON.stringify(piece))}`;
  const wanted = $derived(
    address({
      widthMm: choices.widthMm,
      heightMm: choices.heightMm,
      bleedMm: choices.bleedMm,
      sources: choices.sources,
      colours: choices.colours,
      prepare: preparation
    })
  );
  const layered = $derived(!isPlain(stack) || (press !== undefined && press.media.body !== 'opaque'));
  const seesThrough = $derived(press?.media.body === 'clear' || press?.media.body === 'translucent');
  /** What of the layers is seen: what was chosen may be there no more. */
  const side = $derived.by(() => {
    if (!layered || picture === 'artwork' || picture === 'proof' || picture === 'none') return undefined;
    const isThere = picture === 'behind' ? seesThrough : stack.layers.some(({ id }) => picture === `layer ${id}`);
    return isThere ? picture : 'front';
  });
  const showsLayers = $derived(side !== undefined);
  /** Left and right change places for who looks from behind. */
  const fromBehind = $derived(side === 'behind');
  const layersAt = (px: number) => {
    const of = {
      piece: {
        widthMm: choices.widthMm,
        heightMm: choices.heightMm,
        bleedMm: choices.bleedMm,
        sources: choices.sources,
        colours: choices.colours,
        prepare: preparation
      },
      stack: choices.stack,
      roles: choices.roles,
      conditionId: choices.conditionId,
      intent: choices.intent,
      adjustment: choices.adjustment,
      tone: choices.tone
    };
    const show = (side ?? 'front').replace('layer ', '');
    return `/api/artworks/${docket.artworkId}/layers?page=${docket.page}&px=${px}&show=${show}&backing=${encodeURIComponent(backing)}&colours=${coloursVersion}&of=${encodeURIComponent(JSON.stringify(of))}`;
  };
  const mapped = (kind: string) =>
    `/api/dockets/${docket.id}/map?kind=${kind}&version=${docket.version}&colours=${coloursVersion}`;

  /** What is shown stays until the next is there, so that nothing flickers while a figure is typed. */
  let shown = $state({ href: '', ...{ x: 0, y: 0, width: 1, height: 1 } });
  let drawing = $state(false);
  $effect(() => {
    // Layers take their time: first coarse, then fine.
    const [href, finer] = showsLayers
      ? [layersAt(400), layersAt(view.k > 2 ? 2400 : 1200)]
      : [picture === 'proof' && measurable ? mapped('proof') : wanted];
    const place = showsLayers ? laidBox : printed;
    if ((finer ?? href) === untrack(() => shown.href)) return;
    drawing = true;
    const timer = setTimeout(() => {
      image.onload = () => {
        const [now] = todo.splice(0, 1);
        shown = { href: now!, ...place };
        drawing = todo.length > 0;
        if (todo[0]) image.src = todo[0];
      };
      image.onerror = () => (drawing = false);
      image.src = todo[0]!;
    }, 60);
    const todo = finer === undefined ? [href] : [href, finer];
    const image = new Image();
    return () => {
      clearTimeout(timer);
      image.onload = null;
      image.onerror = null;
    };
  });

  const mediaBox = $derived(docket.artwork.facts.boxes['media'] ?? { x: 0, y: 0, width: 1, height: 1 });
  const behind = $derived.by(() => {
    const m = pageToFinished(preparation, choices);
    const p = apply(m, mediaBox);
    const q = apply(m, { x: mediaBox.x + mediaBox.width, y: mediaBox.y + mediaBox.height });
    return { x: Math.min(p.x, q.x), y: Math.min(p.y, q.y), width: Math.abs(p.x - q.x), height: Math.abs(p.y - q.y) };
  });
  const behindHref = $derived(
    address({
      widthMm: behind.width,
      heightMm: behind.height,
      bleedMm: 0,
      sources: choices.sources,
      prepare: {
        ...wholePage({ widthMm: 1, heightMm: 1 }, preparation.leftOut),
        region: mediaBox,
        turn: choices.turn,
        mirror: choices.mirror
      }
    })
  );

  const DASHES = { 'kiss cut': '7 4', 'through cut': '', crease: '2 4', perforation: '' } as const;
  /** All lines of a tool as one shape: there may be thousands. */
  const drawn = $derived(
    TOOLS.map((tool) => ({
      tool,
      d: lines
        .filter((line) => line.tool === tool && line.id !== hidden)
        .map((line) => pathData(line.path))
        .join('')
    })).filter(({ d }) => d !== '')
  );
  const marked = $derived(
    checks.filter((check): check is Check & { place: Box } => check.level !== 'fine' && check.place !== undefined)
  );

  /** Brings a place of the finished size into the middle. */
  export function lookAt(place: Box): void {
    const k = Math.min(20, Math.max(1, Math.min(width / (place.width * fit * 4), height / (place.height * fit * 4))));
    const x0 = RULER + (width - RULER - choices.widthMm * fit) / 2;
    const y0 = RULER + (height - RULER - choices.heightMm * fit) / 2;
    const at = { x: place.x + place.width / 2, y: place.y + place.height / 2 };
    handle?.to(
      k,
      RULER + (width - RULER) / 2 - x0 * k + RULER * (k - 1) - at.x * fit * k,
      RULER + (height - RULER) / 2 - y0 * k + RULER * (k - 1) - at.y * fit * k
    );
  }
</script>

<div class="relative h-full w-full" bind:clientWidth={width} bind:clientHeight={height}>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <svg
    bind:this={svg}
    {width}
    {height}
    class="bg-base-300 block cursor-grab select-none"
    role="group"
    tabindex="0"
    aria-label="{docket.name} at {formatLength(choices.widthMm, unit)} × {formatLength(choices.heightMm, unit)}"
  >
    <!-- Under a map the artwork is pale grey, so that only the map has colour. -->
    <filter id="pale" color-interpolation-filters="sRGB">
      <feColorMatrix type="saturate" values="0" />
      <feComponentTransfer>
        <feFuncR type="linear" slope="0.45" intercept="0.5" />
        <feFuncG type="linear" slope="0.45" intercept="0.5" />
        <feFuncB type="linear" slope="0.45" intercept="0.5" />
      </feComponentTransfer>
    </filter>
    <g transform="matrix({scale} 0 0 {scale} {left} {top}){fromBehind ? ` matrix(-1 0 0 1 ${choices.widthMm} 0)` : ''}">
      {#if whole}
        <image href={behindHref} {...behind} preserveAspectRatio="none" opacity="0.35" />
      {/if}
      <rect class="fill-white" {...printed} />
      {#if picture !== 'none' && shown.href}
        <image
          href={shown.href}
          x={shown.x}
          y={shown.y}
          width={shown.width}
          height={shown.height}
          preserveAspectRatio="none"
          filter={map !== '' && measurable ? 'url(#pale)' : undefined}
        />
      {/if}
      {#if record !== null && picture !== 'none' && map === '' && !showsLayers}
        <image
          href={recordPicture(docket, record, choices, 1200)}
          transform="matrix({readToFinished(choices, choices).join(' ')})"
          width={choices.widthMm}
          height={choices.heightMm}
          preserveAspectRatio="none"
        />
      {/if}
      {#if map !== '' && measurable}
        <image href={mapped(map)} {...printed} preserveAspectRatio="none" style="image-rendering: pixelated" />
      {/if}
      <rect
        width={choices.widthMm}
        height={choices.heightMm}
        fill="none"
        stroke="#555"
        stroke-dasharray="6 3"
        vector-effect="non-scaling-stroke"
      />
      {#if showCut}
        {#each drawn as { tool, d } (tool)}
          <path {d} fill="none" stroke="#fff" stroke-width="3.5" vector-effect="non-scaling-stroke" />
          <path
            {d}
            fill="none"
            stroke="#000"
            stroke-width="1.5"
            stroke-dasharray={DASHES[tool]}
            vector-effect="non-scaling-stroke"><title>{tool}</title></path
          >
        {/each}
      {/if}
      {#if showMarks}<FinishingMarks {choices} caption="Docket {docket.id} · {docket.customer} · {docket.name}" />{/if}
      {@render tool?.(scale)}
    </g>
    {#if showChecks && hidden === null}
      {#each marked as check (check.id)}
        {@const place = fromBehind ? { ...check.place, x: choices.widthMm - check.place.x - check.place.width } : check.place}
        {@const box = { x: left + place.x * scale, y: top + place.y * scale, w: place.width * scale, h: place.height * scale }}
        {@const inView = box.y + box.h > 30 && box.x + box.w > 30 && box.x < width && box.y < height}
        <g opacity={shownCheck === null || shownCheck === check.id ? 1 : 0.35} visibility={inView ? 'visible' : 'hidden'}>
          <rect
            x={box.x - 3}
            y={box.y - 3}
            width={box.w + 6}
            height={box.h + 6}
            fill="none"
            stroke="#fff"
            stroke-width={shownCheck === check.id ? 5 : 3}
          />
          <rect
            x={box.x - 3}
            y={box.y - 3}
            width={box.w + 6}
            height={box.h + 6}
            fill="none"
            class={check.level === 'stop' ? 'stroke-error' : 'stroke-warning'}
            stroke-width={shownCheck === check.id ? 3 : 1.5}
          />
          <foreignObject x={box.x - 4} y={Math.max(60, box.y - 25)} width="22" height="22">
            <button
              class="bg-base-100 block rounded p-0.5"
              title={check.sentence}
              aria-label={check.sentence}
              onclick={() => onpick?.(check)}
            >
              <LevelIcon level={check.level} bare />
            </button>
          </foreignObject>
        </g>
      {/each}
    {/if}
    <Rulers {width} {height} {left} {top} {scale} />
  </svg>
  <div class="bg-base-100/90 absolute top-8 left-9 flex flex-wrap items-center gap-x-3 gap-y-1 px-2 py-1 text-xs">
    <label
      >Picture
      <select
        class="in-sentence"
        bind:value={
          () => side ?? (layered || picture === 'proof' || picture === 'none' ? picture : 'artwork'), (next) => (picture = next)
        }
        aria-label="Picture"
      >
        <option value="artwork">as sent</option>
        <option value="proof" disabled={!measurable}>as it will print</option>
        {#if layered}
          <option value="front">layers, from the front</option>
          {#if seesThrough}<option value="behind">layers, from behind</option>{/if}
          {#each stack.layers as layer (layer.id)}<option value="layer {layer.id}">{layerName(layer, stack)} alone</option>{/each}
        {/if}
        <option value="none">none</option>
      </select></label
    >
    {#if showsLayers && seesThrough && !side?.startsWith('layer')}<label class="flex items-center gap-1"
        >over <input type="color" class="h-5 w-7 cursor-pointer" aria-label="What is behind it" bind:value={backing} /></label
      >{/if}
    <label
      >Map
      <select class="in-sentence" bind:value={map} disabled={!measurable} aria-label="Map">
        <option value="">none</option>
        <option value="ink">total ink</option>
        <option value="gamut">out of reach</option>
      </select></label
    >
    {#if lines.length > 0}<label class="flex items-center gap-1"
        ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={showCut} />Cut lines</label
      >{/if}
    {#if marksThere}<label class="flex items-center gap-1"
        ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={showMarks} />Finishing</label
      >{/if}
    {#if marked.length > 0}<label class="flex items-center gap-1"
        ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={showChecks} />Checks</label
      >{/if}
    {#if drawing}<span class="loading loading-spinner loading-xs" role="status" aria-label="Drawing"></span>{/if}
  </div>
  {#if map !== '' && measurable}
    <div class="bg-base-100/90 absolute bottom-2 left-9 flex items-center gap-2 px-2 py-1 text-xs" role="note">
      {#if map === 'ink'}
        <span>{Math.round(totalInkLimit * 25)} %</span>
        <span class="h-3 w-24" style="background: linear-gradient(90deg, #f0c45a66, #dc5a14dd)"></span>
        <span>{Math.round(totalInkLimit * 100)} % of ink</span>
        <span class="h-3 w-5" style="background: #d01414"></span><span>above the limit</span>
      {:else}
        <span>ΔE00 {deltaLimit}</span>
        <span class="h-3 w-24" style="background: linear-gradient(90deg, #c800a088, #f00064)"></span>
        <span>{deltaLimit + 15} and more from what is asked for; clear is within reach</span>
      {/if}
    </div>
  {/if}
  <ZoomButtons whole="page" onzoom={(factor) => handle?.by(factor)} onfit={() => handle?.fit()} />
</div>
