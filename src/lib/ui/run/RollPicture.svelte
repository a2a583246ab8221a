<script lang="ts">
  import { onMount, untrack } from 'svelte';
  import type { PlacedCopy, Placement, Stock } from '$core/layout/placing';
  import { dressPart, type RunDocket, type RunLayoutRule } from '$core/layout/run-layout';
  import { formatMetres } from '$core/units/length';
  import type { Docket } from '$lib/server/dockets';
  import { docketPicture } from '$lib/ui/common/client';
  import Rulers, { RULER } from '$lib/ui/common/Rulers.svelte';
  import ZoomButtons from '$lib/ui/common/ZoomButtons.svelte';
  import { makeZoom, zoomIdentity, type ZoomHandle, type ZoomTransform } from '$lib/ui/common/zoom';
  import { drawPart } from './draw-run';

  /** A copy by its docket, number and part. */
  export interface CopyName {
    id: string;
    copy: number;
    part: number;
  }

  interface Props {
    layout: Placement;
    stock: Stock;
    rule: RunLayoutRule;
    dockets: Docket[];
    laid: readonly RunDocket[];
    /** What the machine has printed of it, mm. */
    printed?: number;
    selected?: readonly CopyName[];
    onclaim?: (docketId: string) => void;
    onselect?: (copies: CopyName[]) => void;
    /** A copy, and with it all that are selected, was dragged by so much, mm. */
    onmove?: (copies: CopyName[], dx: number, dy: number) => void;
  }
  let { layout, stock, rule, dockets, laid, printed = 0, selected = [], onclaim, onselect, onmove }: Props = $props();

  let svg: SVGSVGElement;
  let canvas: HTMLCanvasElement;
  let width = $state(800);
  let height = $state(400);
  let view = $state.raw<ZoomTransform>(zoomIdentity);
  let handle: ZoomHandle | undefined;
  onMount(() => {
    handle = makeZoom(svg, (transform) => (view = transform), 200);
    return () => handle?.destroy();
  });

  /** Between sheets, and between the runs that a long one becomes. */
  const PART_GAP = 60;
  const starts = $derived.by(() => {
    let at = 0;
    return layout.parts.map((part) => {
      const start = at;
      at += part.length + PART_GAP;
      return start;
    });
  });
  const length = $derived(Math.max(200, layout.length + PART_GAP * Math.max(0, layout.parts.length - 1)));
  /** Pixels a mm when all of the run is seen. */
  const fit = $derived(Math.min((width - RULER - 60) / length, (height - RULER - 24) / stock.width));
  const scale = $derived(fit * view.k);
  const left = $derived(RULER + 8 + view.x);
  const top = $derived(RULER + 8 + view.y);

  const byId = $derived(new Map(dockets.map((docket) => [String(docket.id), docket])));
  const laidById = $derived(new Map(laid.map((docket) => [docket.id, docket])));
  const parts = $derived(layout.parts.map((part) => ({ ...part, dress: dressPart(part, stock, rule, laid) })));

  /** Pictures as they come; a finer one when a copy is large on the screen. */
  const pictures = new Map<string, HTMLImageElement>();
  let arrived = $state(0);
  const MOST_COARSE_PX = 200;
  function picture(id: string, largePx: number): CanvasImageSource | undefined {
    const docket = byId.get(id);
    if (!docket) return undefined;
    const coarse = load(docketPicture(docket, 240));
    const fine = largePx > MOST_COARSE_PX ? load(docketPicture(docket, 1200)) : undefined;
    return fine?.naturalWidth ? fine : coarse.naturalWidth ? coarse : undefined;
  }
  function load(address: string): HTMLImageElement {
    const kept = pictures.get(address);
    if (kept) return kept;
    const image = new Image();
    image.onload = () => arrived++;
    image.src = address;
    pictures.set(address, image);
    return image;
  }

  const isSelected = (copy: PlacedCopy, part: number) =>
    selected.some((one) => one.id === copy.id && one.copy === copy.copy && one.part === part);

  let dragging = $state.raw<{ copies: CopyName[]; x: number; y: number; dx: number; dy: number } | null>(null);

  let frame = 0;
  function paint(): void {
    const context = canvas.getContext('2d');
    if (!context) return;
    const sharp = window.devicePixelRatio || 1;
    const [w, h] = [Math.round(width * sharp), Math.round(height * sharp)];
    if (canvas.width !== w || canvas.height !== h) {
      canvas.width = w;
      canvas.height = h;
    }
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.clearRect(0, 0, w, h);
    for (const [i, part] of parts.entries()) {
      const start = starts[i] ?? 0;
      // The roll lies on its side: along goes right, the left edge is at the bottom.
      const s = scale * sharp;
      context.setTransform(0, -s, s, 0, (left + start * scale) * sharp, (top + stock.width * scale) * sharp);
      const from = (RULER - left) / scale - start;
      const to = (width - left) / scale - start;
      if (to < 0 || from > part.length) continue;
      context.fillStyle = '#fff';
      context.fillRect(0, 0, stock.width, part.length);
      const bottom = stock.width - (height - top) / scale;
      const seen = { x: bottom, y: from, width: (height - RULER) / scale, height: to - from };
      drawPart(context, part, laidById, picture, seen, s, rule.placing === 'shapes');
      context.lineWidth = 2.5 / scale;
      for (const copy of part.copies) {
        const chosen = isSelected(copy, i);
        if (!chosen && !copy.pinned) continue;
        context.strokeStyle = chosen ? '#000' : '#555';
        context.setLineDash(chosen ? [] : [3 / scale, 3 / scale]);
        const moved = chosen && dragging ? dragging : { dx: 0, dy: 0 };
        context.strokeRect(copy.x + moved.dx, copy.y + moved.dy, copy.width, copy.height);
        context.setLineDash([]);
        if (chosen) {
          context.strokeStyle = '#fff';
          context.lineWidth = 1 / scale;
          context.strokeRect(copy.x + moved.dx, copy.y + moved.dy, copy.width, copy.height);
          context.lineWidth = 2.5 / scale;
        } else {
          context.fillStyle = '#000';
          context.beginPath();
          context.arc(copy.x + copy.width - 6 / scale, copy.y + 6 / scale, 3 / scale, 0, 2 * Math.PI);
          context.fill();
        }
      }
      if (printed > 0) {
        context.strokeStyle = '#000';
        context.lineWidth = 3 / scale;
        context.beginPath();
        context.moveTo(0, printed);
        context.lineTo(stock.width, printed);
        context.stroke();
      }
    }
  }
  $effect(() => {
    // What the picture depends on.
    void [parts, starts, scale, left, top, width, height, printed, selected, arrived, rule, dragging];
    cancelAnimationFrame(frame);
    frame = requestAnimationFrame(() => untrack(paint));
    return () => cancelAnimationFrame(frame);
  });

  /** The copy under a place on the screen. */
  function under(event: MouseEvent): CopyName | undefined {
    const box = svg.getBoundingClientRect();
    const along = (event.clientX - box.left - left) / scale;
    const x = stock.width - (event.clientY - box.top - top) / scale;
    for (const [part, { copies }] of layout.parts.entries()) {
      const y = along - (starts[part] ?? 0);
      for (let i = copies.length - 1; i >= 0; i--) {
        const copy = copies[i] as PlacedCopy;
        if (x >= copy.x && x <= copy.x + copy.width && y >= copy.y && y <= copy.y + copy.height)
          return { id: copy.id, copy: copy.copy, part };
      }
    }
    return undefined;
  }
  const same = (p: CopyName, q: CopyName) => p.id === q.id && p.copy === q.copy && p.part === q.part;

  function press(event: PointerEvent): void {
    if (!onselect || event.button !== 0) return;
    const hit = under(event);
    if (!hit) {
      if (selected.length > 0) onselect([]);
      return;
    }
    // A copy is dragged itself; the picture stays where it is.
    event.stopImmediatePropagation();
    svg.setPointerCapture(event.pointerId);
    const already = selected.some((one) => same(one, hit));
    const next = event.shiftKey
      ? already
        ? selected.filter((one) => !same(one, hit))
        : [...selected, hit]
      : already
        ? [...selected]
        : [hit];
    onselect(next);
    dragging = { copies: next, x: event.clientX, y: event.clientY, dx: 0, dy: 0 };
  }
  function drag(event: PointerEvent): void {
    if (!dragging) return;
    dragging = {
      ...dragging,
      dx: -(event.clientY - dragging.y) / scale,
      dy: (event.clientX - dragging.x) / scale
    };
  }
  function drop(): void {
    const done = dragging;
    dragging = null;
    if (done && Math.hypot(done.dx, done.dy) * scale > 4) onmove?.(done.copies, done.dx, done.dy);
  }
  // d3 listens for the mouse: a press on a copy must not reach it.
  function holdMouse(event: MouseEvent): void {
    if (onselect && event.button === 0 && under(event)) event.stopImmediatePropagation();
  }
  onMount(() => {
    svg.addEventListener('mousedown', holdMouse, { capture: true });
    svg.addEventListener('pointerdown', press, { capture: true });
    return () => {
      svg.removeEventListener('mousedown', holdMouse, { capture: true });
      svg.removeEventListener('pointerdown', press, { capture: true });
    };
  });

  const MOST_BUTTONS = 120;
  const ghosts = $derived(
    layout.parts
      .flatMap((part, i) => part.ghosts.map((ghost) => ({ ...ghost, along: ghost.y + (starts[i] ?? 0) })))
      .slice(0, MOST_BUTTONS)
  );
</script>

<div class="bg-base-300 relative h-full min-h-0 w-full overflow-hidden" bind:clientWidth={width} bind:clientHeight={height}>
  <canvas bind:this={canvas} class="absolute inset-0 h-full w-full" aria-hidden="true"></canvas>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
  <svg
    bind:this={svg}
    {width}
    {height}
    class="absolute inset-0 block cursor-grab select-none"
    role="img"
    tabindex="0"
    onpointermove={drag}
    onpointerup={drop}
    onpointercancel={() => (dragging = null)}
    aria-label="The run on its {stock.kind}, {stock.kind === 'sheet'
      ? `${layout.parts.length} of ${Math.round(stock.width)} × ${Math.round(stock.height)} mm`
      : `${formatMetres(layout.length)} of ${Math.round(stock.width)} mm wide media`}"
  >
    <!-- The machine pays the roll out to the right; its core is drawn at the left edge. -->
    <Rulers {width} {height} {left} {top} {scale} from={0} mostDown={stock.width} metres />
  </svg>
  {#if onclaim}
    {#each ghosts as ghost, i (i)}
      {@const name = byId.get(ghost.id)?.name ?? ''}
      {@const w = ghost.height * scale}
      {@const h = ghost.width * scale}
      {#if w > 14 && h > 10}
        <button
          class="text-primary hover:bg-primary/20 absolute flex items-center justify-center overflow-hidden text-lg font-semibold"
          style="left: {left + ghost.along * scale}px; top: {top +
            (stock.width - ghost.x - ghost.width) * scale}px; width: {w}px; height: {h}px"
          onclick={() => onclaim(ghost.id)}
          aria-label="Claim a spare copy of {name}: it costs no film"
          title="One more {name}: it costs no film">+</button
        >
      {/if}
    {/each}
  {/if}
  <ZoomButtons whole="run" onzoom={(factor) => handle?.by(factor)} onfit={() => handle?.fit()} />
</div>
