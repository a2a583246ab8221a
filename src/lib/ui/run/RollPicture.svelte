<script lang="ts">
  import { onMount, untrack } from 'svelte';
  import { apply } from '$core/geometry/matrix';
  import { DEFAULT_POCKETS } from '$core/layout/in-pockets';
  import { thingToBed } from '$core/layout/jig';
  import { isJig, type PlacedCopy, type Placement, type Stock } from '$core/layout/placement';
  import { dressPart, trimsOf, type RunLayoutRule } from '$core/layout/run-layout';
  import { pieceOf } from '$core/layout/pieces';
  import type { RunPiece } from '$core/layout/run-piece';
  import type { Docket } from '$lib/server/dockets/dockets';
  import { KeptPicture } from '$lib/ui/common/kept-picture';
  import Rulers, { RULER } from '$lib/ui/common/Rulers.svelte';
  import ZoomButtons from '$lib/ui/common/ZoomButtons.svelte';
  import { makeZoom, zoomIdentity, type ZoomHandle, type ZoomTransform } from '$lib/ui/common/zoom';
  import { drawPockets } from '$lib/ui/jig/draw-jig';
  import { drawPart } from './draw-run';
  import { Pictures } from './pictures';
  import { sheetOf, tape, widthOf } from '$lib/ui/common/shop-unit';

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
    laid: readonly RunPiece[];
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
  const parts = $derived(
    layout.parts.map((part) => ({
      ...part,
      dress: dressPart(part, stock, rule, laid),
      trims: rule.cutAlong === 'pieces' ? (trimsOf(part, laid) ?? []) : []
    }))
  );

  /** Of a jig: where things lie, and what of them a copy prints on. */
  const pockets = $derived.by(() => {
    if (!isJig(stock)) return undefined;
    const { thing, pockets: all } = stock.jig;
    if ((rule.pockets ?? DEFAULT_POCKETS).edge !== 'cut off') return { thing, all, clip: () => undefined };
    const size = { widthMm: thing.width, heightMm: thing.height };
    const byNumber = new Map(all.map((pocket) => [pocket.number, pocket]));
    const clip = ({ pocket }: PlacedCopy): Path2D | undefined => {
      const at = byNumber.get(pocket ?? 0);
      if (!at) return undefined;
      const toBed = thingToBed(size, at);
      const path = new Path2D();
      for (const ring of thing.outline) {
        ring.forEach((corner, i) => {
          const { x, y } = apply(toBed, corner);
          path[i === 0 ? 'moveTo' : 'lineTo'](x, y);
        });
        path.closePath();
      }
      return path;
    };
    return { thing, all, clip };
  });

  let arrived = $state(0);
  const pictures = new Pictures(() => arrived++);
  const picture = (id: string, largePx: number) => {
    const docket = byId.get(pieceOf(id).docket);
    return docket && pictures.of(docket, largePx);
  };

  const over = (id: string, record: number, largePx: number) => {
    const docket = byId.get(pieceOf(id).docket);
    const records = laidById.get(id)?.records;
    return docket && records && pictures.over(docket, records, record, largePx);
  };

  const isSelected = (copy: PlacedCopy, part: number) =>
    selected.some((one) => one.id === copy.id && one.copy === copy.copy && one.part === part);

  let dragging = $state.raw<{ copies: CopyName[]; x: number; y: number; dx: number; dy: number } | null>(null);

  let frame = 0;
  const kept = new KeptPicture();
  onMount(() => () => kept.stop());

  function paintWhole(): void {
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
      drawPart(context, part, laidById, picture, over, seen, s, rule.placing === 'shapes' && !pockets, (copy) =>
        pockets?.clip(copy)
      );
      if (pockets) drawPockets(context, pockets.thing, pockets.all, s, () => ({ line: '#666' }));
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
    void [scale, left, top];
    const of = [pockets, parts, starts, width, height, printed, selected, arrived, rule, dragging];
    cancelAnimationFrame(frame);
    frame = requestAnimationFrame(() => untrack(() => kept.paint(canvas, () => ({ left, top, scale }), of, paintWhole)));
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

  /** A copy that is selected is dragged itself; anything else moves the picture. */
  function press(event: PointerEvent): void {
    if (!onmove || event.button !== 0 || event.shiftKey) return;
    const hit = under(event);
    if (!hit || !selected.some((one) => same(one, hit))) return;
    event.stopImmediatePropagation();
    svg.setPointerCapture(event.pointerId);
    dragging = { copies: [...selected], x: event.clientX, y: event.clientY, dx: 0, dy: 0 };
  }
  /** A press that moved nothing selects; Shift adds to what is selected, or takes from it. */
  /** ] and [ go from copy to copy, for those without a mouse; with Shift the next is chosen too. */
  function step(event: KeyboardEvent): void {
    const by = { ']': 1, '}': 1, '[': -1, '{': -1 }[event.key];
    if (!onselect || event.target !== svg || by === undefined) return;
    const all = layout.parts.flatMap(({ copies }, part) => copies.map(({ id, copy }) => ({ id, copy, part })));
    if (all.length === 0) return;
    event.preventDefault();
    const last = selected.at(-1);
    const at = last ? all.findIndex((one) => same(one, last)) : by < 0 ? 0 : -1;
    const next = all[(at + by + all.length) % all.length] ?? all[0];
    if (next) onselect(event.shiftKey ? [...selected.filter((one) => !same(one, next)), next] : [next]);
  }

  let dragged = false;
  function choose(event: MouseEvent): void {
    const wasDrag = dragged;
    dragged = false;
    if (!onselect || wasDrag) return;
    const hit = under(event);
    if (!hit) onselect([]);
    else if (!event.shiftKey) onselect([hit]);
    else if (selected.some((one) => same(one, hit))) onselect(selected.filter((one) => !same(one, hit)));
    else onselect([...selected, hit]);
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
    if (done && Math.hypot(done.dx, done.dy) * scale > 4) {
      dragged = true;
      onmove?.(done.copies, done.dx, done.dy);
    }
  }
  // d3 listens for the mouse: a press on a selected copy must not reach it.
  function holdMouse(event: MouseEvent): void {
    const hit = onmove && event.button === 0 && !event.shiftKey ? under(event) : undefined;
    if (hit && selected.some((one) => same(one, hit))) event.stopImmediatePropagation();
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
      // How many copies records have, their table says.
      .filter(({ id }) => !laidById.get(id)?.records)
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
    onclick={choose}
    onkeydown={step}
    onpointermove={drag}
    onpointerup={drop}
    onpointercancel={() => (dragging = null)}
    aria-label="The run on its {stock.kind}, {stock.kind === 'sheet'
      ? `${layout.parts.length} of ${sheetOf(stock.width, stock.height)}`
      : `${tape(layout.length)} of media ${widthOf(stock.width)} wide`}"
  >
    <!-- The machine pays the roll out to the right; its core is drawn at the left edge. -->
    <Rulers {width} {height} {left} {top} {scale} from={0} mostDown={stock.width} long />
  </svg>
  {#if onclaim}
    {#each ghosts as ghost, i (i)}
      {@const name = byId.get(pieceOf(ghost.id).docket)?.name ?? ''}
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
