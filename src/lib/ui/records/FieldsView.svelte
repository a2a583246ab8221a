<script lang="ts">
  import { onMount, untrack } from 'svelte';
  import { beyondMm } from '$core/artwork/choices';
  import type { Field, FieldPlace } from '$core/records/field';
  import { fromField, pull, snapped, turnTo, type Guide, type Pulled } from '$core/records/field-placing';
  import { formatLength, type LengthUnit } from '$core/units/length';
  import type { DocketChoices } from '$lib/docket-choices';
  import type { Docket } from '$lib/server/dockets/dockets';
  import { readPicture, recordPicture } from '$lib/ui/common/client';
  import Rulers, { RULER } from '$lib/ui/common/Rulers.svelte';
  import ZoomButtons from '$lib/ui/common/ZoomButtons.svelte';
  import { makeZoom, zoomIdentity, type ZoomHandle, type ZoomTransform } from '$lib/ui/common/zoom';
  import { boxBetween, follow, pointIn } from '$lib/ui/docket/drag';

  interface Props {
    docket: Docket;
    choices: DocketChoices;
    /** As the record that is shown has them. */
    fields: readonly Field[];
    chosen: number | null;
    /** The record that is shown; none without a table. */
    record: number | null;
    unit: LengthUnit;
    /** A place is to be drawn for a new field. */
    drawing: boolean;
    onchoose: (id: number | null) => void;
    onplace: (id: number, place: FieldPlace) => void;
    ondraw: (place: FieldPlace | null) => void;
    onremove: (id: number) => void;
  }
  let { docket, choices, fields, chosen, record, unit, drawing, onchoose, onplace, ondraw, onremove }: Props = $props();

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

  const { widthMm, heightMm } = $derived(choices);
  const room = $derived(Math.max(1, beyondMm(choices)));
  const fit = $derived(
    Math.max(1e-6, Math.min((width - RULER - 50) / (widthMm + 2 * room), (height - RULER - 50) / (heightMm + 2 * room)))
  );
  const scale = $derived(fit * view.k);
  const left = $derived((RULER + (width - RULER - widthMm * fit) / 2) * view.k + view.x - RULER * (view.k - 1));
  const top = $derived((RULER + (height - RULER - heightMm * fit) / 2) * view.k + view.y - RULER * (view.k - 1));
  const px = $derived(1 / scale);
  const beyond = $derived(beyondMm(edited(docket)));
  function edited({ choices: saved }: Docket): DocketChoices {
    return saved;
  }

  /** The record's own picture stays until the next is there, so that nothing flickers while it is stepped. */
  let shown = $state('');
  $effect(() => {
    const { id, version } = docket;
    const none = record === null || fields.length === 0;
    const address = none ? '' : recordPicture({ id, version }, record, choices, view.k > 2 ? 2400 : 1200);
    if (address === untrack(() => shown)) return;
    if (none) {
      shown = '';
      return;
    }
    const image = new Image();
    image.onload = () => (shown = address);
    image.src = address;
    return () => (image.onload = null);
  });

  /** While something is pulled: where it is now. */
  let moving = $state.raw<{ id: number; place: FieldPlace; guides: Guide[] } | null>(null);
  const placeOf = (field: Field) => (moving?.id === field.id ? moving.place : field.place);
  const others = (id: number) => fields.filter((field) => field.id !== id).map((field) => field.place);
  /** What is near enough to be taken, pixels. */
  const NEAR_PX = 6;

  function move(event: PointerEvent, field: Field): void {
    if (event.button !== 0) return;
    onchoose(field.id);
    const from = pointIn(group, event);
    const was = field.place;
    follow(
      event,
      (e) => {
        const at = pointIn(group, e);
        const place = { ...was, x: was.x + at.x - from.x, y: was.y + at.y - from.y };
        if (!moving && Math.hypot(at.x - from.x, at.y - from.y) * scale < 3) return;
        moving = {
          id: field.id,
          ...(e.altKey ? { place, guides: [] } : snapped(place, others(field.id), choices, NEAR_PX * px))
        };
      },
      settle
    );
  }
  function size(event: PointerEvent, field: Field, pulled: Pulled): void {
    if (event.button !== 0) return;
    const was = field.place;
    follow(event, (e) => (moving = { id: field.id, place: pull(was, pulled, pointIn(group, e)), guides: [] }), settle);
  }
  function turn(event: PointerEvent, field: Field): void {
    if (event.button !== 0) return;
    const was = field.place;
    follow(event, (e) => (moving = { id: field.id, place: turnTo(was, pointIn(group, e)), guides: [] }), settle);
  }
  function settle(): void {
    if (!moving) return;
    const { id, place } = moving;
    moving = null;
    onplace(id, rounded(place));
  }
  /** Finer than anything prints. */
  const rounded = (place: FieldPlace): FieldPlace => ({
    ...place,
    x: Math.round(place.x * 100) / 100,
    y: Math.round(place.y * 100) / 100,
    width: Math.round(place.width * 100) / 100,
    height: Math.round(place.height * 100) / 100
  });

  const STEPS: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  /** Arrows move by 1 mm, with Shift by 0.1 mm. */
  function keys(event: KeyboardEvent, field: Field): void {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const step = STEPS[event.key];
    if (step) {
      const by = event.shiftKey ? 0.1 : 1;
      onplace(field.id, rounded({ ...field.place, x: field.place.x + step[0] * by, y: field.place.y + step[1] * by }));
    } else if (event.key === 'Delete' || event.key === 'Backspace') onremove(field.id);
    else if (event.key === 'Enter' || event.key === ' ') onchoose(field.id);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  /** A place that is being drawn. */
  let drawn = $state.raw<FieldPlace | null>(null);
  function draw(event: PointerEvent): void {
    if (event.button !== 0) return;
    const from = pointIn(group, event);
    follow(
      event,
      (e) => {
        drawn = { ...boxBetween(from, pointIn(group, e)), turn: 0 };
      },
      () => {
        const place = drawn;
        drawn = null;
        // A press without a pull is no place: one is found for it.
        ondraw(place && place.width * scale > 6 && place.height * scale > 6 ? rounded(place) : null);
      }
    );
  }

  const PULLS: (Pulled & { name: string })[] = [
    { across: -1, down: -1, name: 'top left' },
    { across: 1, down: -1, name: 'top right' },
    { across: -1, down: 1, name: 'bottom left' },
    { across: 1, down: 1, name: 'bottom right' },
    { across: 0, down: -1, name: 'top' },
    { across: 0, down: 1, name: 'bottom' },
    { across: -1, down: 0, name: 'left' },
    { across: 1, down: 0, name: 'right' }
  ];
  const corner = (place: FieldPlace, { across, down }: Pulled) =>
    fromField(place, { x: ((across + 1) / 2) * place.width, y: ((down + 1) / 2) * place.height });
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
    aria-label="{docket.name} with its fields{record === null ? '' : `, record ${record}`}"
  >
    <g bind:this={group} transform="matrix({scale} 0 0 {scale} {left} {top})">
      <rect class="fill-white" x={-beyond} y={-beyond} width={widthMm + 2 * beyond} height={heightMm + 2 * beyond} />
      <image
        href={readPicture(docket, 1200)}
        x={-beyond}
        y={-beyond}
        width={widthMm + 2 * beyond}
        height={heightMm + 2 * beyond}
        preserveAspectRatio="none"
      />
      {#if shown}<image href={shown} width={widthMm} height={heightMm} preserveAspectRatio="none" />{/if}
      <rect
        width={widthMm}
        height={heightMm}
        fill="none"
        stroke="#555"
        stroke-dasharray="6 3"
        vector-effect="non-scaling-stroke"
      />
      {#each fields as field (field.id)}
        {@const place = placeOf(field)}
        {@const isChosen = field.id === chosen}
        <g data-tool transform="rotate({place.turn} {place.x + place.width / 2} {place.y + place.height / 2})">
          <rect
            x={place.x}
            y={place.y}
            width={place.width}
            height={place.height}
            fill="#000"
            fill-opacity="0"
            pointer-events="all"
            class="cursor-move outline-none {isChosen ? 'stroke-primary' : 'focus-visible:stroke-primary stroke-[#555]'}"
            stroke-width={isChosen ? 2.5 : 1}
            stroke-dasharray={isChosen ? '' : '4 3'}
            vector-effect="non-scaling-stroke"
            style="outline: none"
            role="button"
            tabindex="0"
            aria-pressed={isChosen}
            aria-label="Field {field.name}, {formatLength(place.x, unit)} from the left, {formatLength(
              place.y,
              unit
            )} from the top"
            onkeydown={(event) => keys(event, field)}
            onfocus={() => onchoose(field.id)}
            onpointerdown={(event) => move(event, field)}
          />
          {#if isChosen || record === null}
            <g transform="translate({place.x} {place.y - 4 * px}) scale({px})" pointer-events="none">
              <text class="fill-black text-[12px] font-semibold" stroke="#fff" stroke-width="3" paint-order="stroke"
                >{field.name}</text
              >
            </g>
          {/if}
        </g>
        {#if isChosen && !drawing}
          {@const knob = fromField(place, { x: place.width / 2, y: -22 * px })}
          {@const middle = corner(place, { across: 0, down: -1 })}
          <g data-tool>
            <line
              x1={middle.x}
              y1={middle.y}
              x2={knob.x}
              y2={knob.y}
              class="stroke-primary"
              stroke-width="1.5"
              vector-effect="non-scaling-stroke"
              pointer-events="none"
            />
            <!-- By figures, both are in the panel: the keyboard has them there. -->
            <circle
              cx={knob.x}
              cy={knob.y}
              r={6 * px}
              class="fill-base-100 stroke-primary cursor-grab"
              stroke-width="2"
              vector-effect="non-scaling-stroke"
              role="presentation"
              onpointerdown={(event) => turn(event, field)}><title>Turn</title></circle
            >
            {#each PULLS as pulled (pulled.name)}
              {@const at = corner(place, pulled)}
              <rect
                x={at.x - 5 * px}
                y={at.y - 5 * px}
                width={10 * px}
                height={10 * px}
                class="fill-base-100 stroke-primary cursor-move"
                stroke-width="2"
                vector-effect="non-scaling-stroke"
                role="presentation"
                onpointerdown={(event) => size(event, field, pulled)}
              />
            {/each}
          </g>
        {/if}
      {/each}
      {#each moving?.guides ?? [] as guide, i (i)}
        <line
          x1={guide.is === 'across' ? guide.at : -room}
          x2={guide.is === 'across' ? guide.at : widthMm + room}
          y1={guide.is === 'across' ? -room : guide.at}
          y2={guide.is === 'across' ? heightMm + room : guide.at}
          class="stroke-primary"
          stroke-width="1"
          vector-effect="non-scaling-stroke"
        />
      {/each}
      {#if moving}
        <g
          transform="translate({moving.place.x} {moving.place.y + moving.place.height + 14 * px}) scale({px})"
          pointer-events="none"
        >
          <text class="fill-black text-[12px]" stroke="#fff" stroke-width="3" paint-order="stroke"
            >{formatLength(moving.place.width, unit)} × {formatLength(moving.place.height, unit)}{moving.place.turn === 0
              ? ''
              : `, ${moving.place.turn}°`}</text
          >
        </g>
      {/if}
      {#if drawing}
        <rect
          data-tool
          x={-room}
          y={-room}
          width={widthMm + 2 * room}
          height={heightMm + 2 * room}
          fill="#000"
          fill-opacity="0"
          pointer-events="all"
          role="presentation"
          onpointerdown={draw}
        />
        {#if drawn}<rect
            {...{ x: drawn.x, y: drawn.y, width: drawn.width, height: drawn.height }}
            class="fill-primary/10 stroke-primary"
            stroke-width="2"
            vector-effect="non-scaling-stroke"
            pointer-events="none"
          />{/if}
      {/if}
    </g>
    <Rulers {width} {height} {left} {top} {scale} />
  </svg>
  <ZoomButtons whole="piece" onzoom={(factor) => handle?.by(factor)} onfit={() => handle?.fit()} />
</div>
