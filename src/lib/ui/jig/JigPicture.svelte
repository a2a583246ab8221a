<script lang="ts">
  import { onMount, untrack } from 'svelte';
  import { boxAround } from '$core/geometry/box';
  import { outlineAt, outlineOf, type Jig, type Pocket } from '$core/layout/jig';
  import type { JigFault } from '$core/layout/jig-faults';
  import { pathData, polylinePath } from '$core/geometry/path';
  import { KeptPicture } from '$lib/ui/common/kept-picture';
  import Rulers, { RULER } from '$lib/ui/common/Rulers.svelte';
  import ZoomButtons from '$lib/ui/common/ZoomButtons.svelte';
  import { makeZoom, zoomIdentity, type ZoomHandle, type ZoomTransform } from '$lib/ui/common/zoom';
  import { drawPockets } from './draw-jig';
  import { sizeOf } from '$lib/ui/common/shop-unit';

  /** A jig on its bed, to scale, seen from above; the front is at the top, where a print begins. */
  let {
    jig,
    pockets,
    faults,
    chosen,
    enlarged,
    onchoose,
    onnudge
  }: {
    jig: Jig;
    pockets: readonly Pocket[];
    faults: readonly JigFault[];
    /** The key of a pocket. */
    chosen: string | undefined;
    /** Own offsets are drawn so many times as long. */
    enlarged: number;
    onchoose: (key: string | undefined) => void;
    /** The chosen one is moved by so much, mm, and turned, degrees. */
    onnudge: (dx: number, dy: number, turn: number) => void;
  } = $props();

  let svg: SVGSVGElement;
  let canvas: HTMLCanvasElement;
  let width = $state(800);
  let height = $state(500);
  let view = $state.raw<ZoomTransform>(zoomIdentity);
  let handle: ZoomHandle | undefined;
  onMount(() => {
    handle = makeZoom(svg, (transform) => (view = transform), 200);
    return () => handle?.destroy();
  });

  const fit = $derived(Math.min((width - RULER - 40) / jig.bed.widthMm, (height - RULER - 56) / jig.bed.lengthMm));
  const scale = $derived(fit * view.k);
  const left = $derived(RULER + 16 + view.x);
  const top = $derived(RULER + 24 + view.y);

  const outline = $derived(outlineOf(jig.thing));
  const wrong = $derived(new Set(faults.flatMap(({ key, on }) => (on === undefined ? [key] : [key, on]))));
  const pocket = $derived(pockets.find(({ key }) => key === chosen));
  const handlePath = $derived(
    pocket
      ? pathData(
          outlineAt(jig.thing, pocket, outline).flatMap((points) =>
            polylinePath({ points: points.map(({ x, y }) => ({ x: left + x * scale, y: top + y * scale })), closed: true })
          )
        )
      : ''
  );

  const around = $derived(
    boxAround(
      pockets.map(({ x, y }) => {
        const reach = Math.max(jig.thing.widthMm, jig.thing.heightMm) / 2;
        return [{ x: x - reach, y: y - reach }, { x: x + reach, y: y + reach }]; // prettier-ignore
      })
    )
  );
  /** Places alone: on a large bed they are small. */
  function showPlaces(): void {
    if (!around) return;
    const k = Math.min((width - RULER - 60) / (around.width * fit), (height - RULER - 80) / (around.height * fit));
    handle?.to(k, 10 - around.x * fit * k, 10 - around.y * fit * k);
  }

  const colour = (name: string) => getComputedStyle(canvas).getPropertyValue(name).trim();
  const kept = new KeptPicture();
  onMount(() => () => kept.stop());
  let frame = 0;
  $effect(() => {
    // What the picture depends on.
    void [scale, left, top];
    const of = [jig, pockets, faults, enlarged, width, height];
    cancelAnimationFrame(frame);
    frame = requestAnimationFrame(() => untrack(() => kept.paint(canvas, () => ({ left, top, scale }), of, paintWhole)));
    return () => cancelAnimationFrame(frame);
  });
  function paintWhole(): void {
    const context = canvas.getContext('2d');
    if (!context) return;
    const ratio = window.devicePixelRatio || 1;
    const [w, h] = [Math.round(width * ratio), Math.round(height * ratio)];
    if (canvas.width !== w || canvas.height !== h) {
      canvas.width = w;
      canvas.height = h;
    }
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, width, height);
    context.setTransform(scale * ratio, 0, 0, scale * ratio, left * ratio, top * ratio);
    context.fillStyle = '#fff';
    context.fillRect(0, 0, jig.bed.widthMm, jig.bed.lengthMm);
    context.lineWidth = 1 / scale;
    context.strokeStyle = '#777';
    context.strokeRect(0, 0, jig.bed.widthMm, jig.bed.lengthMm);
    if (jig.plate) {
      context.fillStyle = '#f4f1e8';
      context.fillRect(jig.plate.x, jig.plate.y, jig.plate.widthMm, jig.plate.lengthMm);
      context.strokeRect(jig.plate.x, jig.plate.y, jig.plate.widthMm, jig.plate.lengthMm);
    }
    const seen = pockets.filter(
      ({ x, y }) =>
        (x + jig.thing.widthMm + jig.thing.heightMm) * scale + left > 0 &&
        (x - jig.thing.widthMm - jig.thing.heightMm) * scale + left < width &&
        (y + jig.thing.widthMm + jig.thing.heightMm) * scale + top > 0 &&
        (y - jig.thing.widthMm - jig.thing.heightMm) * scale + top < height
    );
    // The way in which they are filled, from the first on.
    const on = pockets.filter(({ isOff }) => !isOff);
    if (on.length > 1 && on.length <= 400) {
      context.lineWidth = 1 / scale;
      context.strokeStyle = '#0005';
      context.setLineDash([4 / scale, 4 / scale]);
      context.beginPath();
      on.forEach(({ x, y }, i) => context[i === 0 ? 'moveTo' : 'lineTo'](x, y));
      context.stroke();
      context.setLineDash([]);
    }
    const red = colour('--color-error') || '#b00';
    drawPockets(context, { width: jig.thing.widthMm, height: jig.thing.heightMm, outline }, seen, scale, (at) => {
      const { key, isOff } = seen[at]!;
      if (wrong.has(key)) return { line: red, fill: '#ff000022' };
      return isOff ? { line: '#bbb' } : { line: '#222', fill: '#00000010' };
    });
    context.strokeStyle = red;
    context.lineWidth = 2 / scale;
    for (const { key, x, y } of seen) {
      const nudge = jig.nudges[key];
      if (!nudge || (nudge.dx === 0 && nudge.dy === 0)) continue;
      context.beginPath();
      context.moveTo(x - nudge.dx, y - nudge.dy);
      context.lineTo(x - nudge.dx + nudge.dx * enlarged, y - nudge.dy + nudge.dy * enlarged);
      context.stroke();
    }
    // The machine's own corner, and the ways in which it counts.
    const { origin, widthMm, lengthMm } = jig.bed;
    const [ox, oy] = [origin.endsWith('left') ? 0 : widthMm, origin.startsWith('front') ? 0 : lengthMm];
    const [sx, sy] = [ox === 0 ? 1 : -1, oy === 0 ? 1 : -1];
    const arm = 34 / scale;
    context.fillStyle = '#222';
    context.strokeStyle = '#222';
    context.lineWidth = 2 / scale;
    context.beginPath();
    context.arc(ox, oy, 4 / scale, 0, 2 * Math.PI);
    context.fill();
    for (const [dx, dy, name] of [
      [sx, 0, 'x'],
      [0, sy, 'y']
    ] as const) /* prettier-ignore */ {
      const [tx, ty] = [ox + dx * arm, oy + dy * arm];
      context.beginPath();
      context.moveTo(ox, oy);
      context.lineTo(tx, ty);
      context.stroke();
      context.beginPath();
      context.moveTo(tx + (dx * 7) / scale, ty + (dy * 7) / scale);
      context.lineTo(tx - (dy * 4) / scale, ty + (dx * 4) / scale);
      context.lineTo(tx + (dy * 4) / scale, ty - (dx * 4) / scale);
      context.fill();
      context.font = `${12 / scale}px 'Inter Variable', sans-serif`;
      context.textAlign = 'center';
      context.textBaseline = 'middle';
      context.fillText(name, tx + (dx * 14) / scale, ty + (dy * 14) / scale);
    }
  }

  function choose(event: MouseEvent): void {
    if (event.defaultPrevented || (event.target as Element).closest('[data-tool]')) return;
    const box = svg.getBoundingClientRect();
    const at = { x: (event.clientX - box.left - left) / scale, y: (event.clientY - box.top - top) / scale };
    const reach = Math.hypot(jig.thing.widthMm, jig.thing.heightMm) / 2;
    let [best, least] = [undefined as string | undefined, reach];
    for (const { key, x, y, turn } of pockets) {
      const far = Math.hypot(at.x - x, at.y - y);
      if (far > least) continue;
      const radians = (-turn * Math.PI) / 180;
      const [dx, dy] = [at.x - x, at.y - y];
      const u = Math.abs(dx * Math.cos(radians) - dy * Math.sin(radians));
      const v = Math.abs(dx * Math.sin(radians) + dy * Math.cos(radians));
      if (u <= jig.thing.widthMm / 2 && v <= jig.thing.heightMm / 2) [best, least] = [key, far];
    }
    onchoose(best);
  }

  function keys(event: KeyboardEvent): void {
    if (event.key === ']' || event.key === '[') {
      const at = pockets.findIndex(({ key }) => key === chosen);
      const next = at < 0 ? 0 : (at + (event.key === ']' ? 1 : -1) + pockets.length) % pockets.length;
      onchoose(pockets[next]?.key);
    } else if (event.altKey && pocket) {
      const step = event.shiftKey ? 1 : 0.1;
      const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[event.key];
      if (!by) return;
      onnudge(by[0]!, by[1]!, 0);
    } else if (TURNS[event.key] !== undefined && pocket) onnudge(0, 0, TURNS[event.key]!);
    else if (event.key === 'Escape' && chosen !== undefined) onchoose(undefined);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  let dragging: { x: number; y: number } | undefined;
  function drag(event: PointerEvent): void {
    if (!dragging) return;
    const step = (px: number) => Math.round((px / scale) * 10) / 10;
    const [dx, dy] = [step(event.clientX - dragging.x), step(event.clientY - dragging.y)];
    if (dx === 0 && dy === 0) return;
    dragging = { x: dragging.x + dx * scale, y: dragging.y + dy * scale };
    onnudge(dx, dy, 0);
  }

  /** Keys that turn the chosen one, degrees; with Shift by more. */
  const TURNS: Record<string, number> = { ',': -0.1, '.': 0.1, '<': -1, '>': 1 };
  /** Where the chosen one is taken to be turned: above its upper edge, pixels. */
  const grip = $derived.by(() => {
    if (!pocket) return undefined;
    const radians = (pocket.turn * Math.PI) / 180;
    const away = (jig.thing.heightMm / 2) * scale + GRIP_PX;
    const middle = { x: left + pocket.x * scale, y: top + pocket.y * scale };
    return { middle, x: middle.x + away * Math.sin(radians), y: middle.y - away * Math.cos(radians) };
  });
  const GRIP_PX = 22;
  let turning = $state(false);
  function turnTo(event: PointerEvent): void {
    if (!turning || !pocket || !grip) return;
    const box = svg.getBoundingClientRect();
    const [dx, dy] = [event.clientX - box.left - grip.middle.x, event.clientY - box.top - grip.middle.y];
    const to = Math.round(((Math.atan2(dx, -dy) * 180) / Math.PI) * 10) / 10;
    const by = ((((to - pocket.turn) % 360) + 540) % 360) - 180;
    if (Math.abs(by) >= 0.05) onnudge(0, 0, by);
  }
</script>

<div class="relative h-full w-full overflow-hidden bg-neutral-300" bind:clientWidth={width} bind:clientHeight={height}>
  <canvas bind:this={canvas} class="absolute inset-0" style="width: {width}px; height: {height}px"></canvas>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_click_events_have_key_events -->
  <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
  <svg
    bind:this={svg}
    {width}
    {height}
    class="absolute inset-0 block cursor-grab select-none"
    role="img"
    tabindex="0"
    onclick={choose}
    onkeydowncapture={keys}
    aria-label="The jig on its bed of {sizeOf(jig.bed.widthMm, jig.bed.lengthMm)}, {pockets.filter(({ isOff }) => !isOff)
      .length} pockets"
  >
    <text x={left} y={top - 8} class="fill-neutral-700 text-xs">front: a print begins here</text>
    {#if pocket}
      <path
        d={handlePath}
        data-tool
        role="presentation"
        class="stroke-primary fill-primary/20 cursor-move"
        stroke-width="2"
        fill-rule="evenodd"
        onpointerdown={(event) => {
          dragging = { x: event.clientX, y: event.clientY };
          event.currentTarget.setPointerCapture(event.pointerId);
        }}
        onpointermove={drag}
        onpointerup={() => (dragging = undefined)}
        onpointercancel={() => (dragging = undefined)}
      />
      {#if grip}
        <line
          x1={grip.middle.x}
          y1={grip.middle.y}
          x2={grip.x}
          y2={grip.y}
          class="stroke-primary pointer-events-none"
          stroke-width="1"
        />
        <circle
          cx={grip.x}
          cy={grip.y}
          r="7"
          data-tool
          data-testid="turn-grip"
          role="presentation"
          class="stroke-primary cursor-grab fill-white"
          stroke-width="2"
          onpointerdown={(event) => {
            turning = true;
            event.currentTarget.setPointerCapture(event.pointerId);
          }}
          onpointermove={turnTo}
          onpointerup={() => (turning = false)}
          onpointercancel={() => (turning = false)}><title>Turn it</title></circle
        >
      {/if}
    {/if}
    <Rulers {width} {height} {left} {top} {scale} from={0} mostDown={jig.bed.lengthMm} />
  </svg>
  <ZoomButtons whole="bed" onzoom={(factor) => handle?.by(factor)} onfit={() => handle?.fit()}>
    <button class="btn btn-xs" disabled={!around} onclick={showPlaces}>All places</button>
  </ZoomButtons>
</div>
