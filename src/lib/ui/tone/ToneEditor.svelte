<script lang="ts">
  import {
    straightTone,
    isPlainTone,
    toneFunction,
    TONE_CHANNELS,
    toneTables,
    withoutPoint,
    withPoint,
    type Tone,
    type ToneChannel,
    type ToneCurve
  } from '$core/colour/tone';
  import { INK_LINES } from '$lib/ui/colour/show';
  import PercentBox from '$lib/ui/common/PercentBox.svelte';

  /** Curves of inks, drawn: points are dragged, added by a click, taken out by Delete, moved by arrows, or given by figures. */
  let {
    tone,
    then = {},
    onchange
  }: {
    tone: Tone;
    /** What goes after it: both are drawn as one. */
    then?: Tone;
    onchange: (tone: Tone) => void;
  } = $props();

  const SIDE = 240;
  const WORDS: Record<ToneChannel, string> = {
    all: 'All inks',
    cyan: 'Cyan',
    magenta: 'Magenta',
    yellow: 'Yellow',
    black: 'Black'
  };

  let channel = $state<ToneChannel>('all');
  let chosen = $state(-1);
  let svg: SVGSVGElement;
  let dragging = false;

  const curve = $derived(tone[channel] ?? straightTone());
  const point = $derived(curve.points[chosen]);
  const drawn = (of: ToneCurve) => {
    const at = toneFunction(of);
    return Array.from({ length: 65 }, (_, i) => `${((i / 64) * SIDE).toFixed(1)},${((1 - at(i / 64)) * SIDE).toFixed(1)}`).join(
      ' '
    );
  };
  /** By ink all that goes one after the other, where more than one thing does. */
  const whole = $derived(isPlainTone(then) ? [] : toneTables([tone, then]));
  const tableDrawn = (table: Float64Array) =>
    Array.from(table, (v, i) => `${((i / 255) * SIDE).toFixed(1)},${((1 - v) * SIDE).toFixed(1)}`).join(' ');
  const lineOf = (of: ToneChannel) => (of === 'all' ? 'currentColor' : INK_LINES[of]);

  function put(next: ToneCurve): void {
    onchange({ ...tone, [channel]: next });
  }
  function move(at: number | undefined, to: [number, number]): void {
    const { curve: next, at: which } = withPoint(curve, at, to);
    chosen = which;
    put(next);
  }
  function placeOf(event: PointerEvent): [number, number] {
    const { left, top, width, height } = svg.getBoundingClientRect();
    return [(event.clientX - left) / width, 1 - (event.clientY - top) / height];
  }
  function press(event: PointerEvent): void {
    const [x, y] = placeOf(event);
    const near = curve.points.findIndex(([px, py]) => Math.hypot(px - x, py - y) < 0.05);
    dragging = true;
    svg.setPointerCapture(event.pointerId);
    if (near >= 0) chosen = near;
    else move(undefined, [x, y]);
  }
  function keys(event: KeyboardEvent, at: number): void {
    const step = event.shiftKey ? 0.1 : 0.01;
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[event.key];
    const [x, y] = curve.points[at]!;
    if (by) move(at, [x + by[0]!, y + by[1]!]);
    else if (event.key === 'Delete' || event.key === 'Backspace') takeOut(at);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
  function takeOut(at: number): void {
    put(withoutPoint(curve, at));
    chosen = -1;
  }
  const reset = () => {
    const { [channel]: _, ...rest } = tone;
    void _;
    chosen = -1;
    onchange(rest);
  };
  const figure = (v: number) => Number((v * 100).toFixed(1));
</script>

<div class="space-y-2">
  <div class="flex flex-wrap gap-1" role="tablist" aria-label="Curve of">
    {#each TONE_CHANNELS as one (one)}
      <button
        role="tab"
        class="btn btn-xs {one === channel ? 'btn-active' : ''}"
        aria-selected={one === channel}
        onclick={() => {
          channel = one;
          chosen = -1;
        }}>{WORDS[one]}{tone[one] ? ' ·' : ''}</button
      >
    {/each}
  </div>
  <svg
    bind:this={svg}
    viewBox="-8 -8 {SIDE + 16} {SIDE + 16}"
    class="bg-base-200 w-full max-w-72 touch-none"
    role="group"
    aria-label="Curve of {WORDS[channel].toLowerCase()}: from left to right the amount asked for, upwards the amount printed"
    onpointerdown={press}
    onpointermove={(event) => dragging && chosen >= 0 && move(chosen, placeOf(event))}
    onpointerup={() => (dragging = false)}
  >
    {#each [0, 0.25, 0.5, 0.75, 1] as at (at)}
      <line x1={at * SIDE} x2={at * SIDE} y1="0" y2={SIDE} stroke="currentColor" opacity="0.15" />
      <line x1="0" x2={SIDE} y1={at * SIDE} y2={at * SIDE} stroke="currentColor" opacity="0.15" />
    {/each}
    <line x1="0" y1={SIDE} x2={SIDE} y2="0" stroke="currentColor" opacity="0.3" stroke-dasharray="4 4" />
    {#each TONE_CHANNELS.filter((one) => one !== channel && tone[one]) as one (one)}
      <polyline points={drawn(tone[one]!)} fill="none" stroke={lineOf(one)} opacity="0.5" />
    {/each}
    {#each whole as table, i (i)}
      {@const ink = TONE_CHANNELS[i + 1]!}
      {#if channel === 'all' || channel === ink}<polyline
          points={tableDrawn(table)}
          fill="none"
          stroke={lineOf(ink)}
          stroke-dasharray="5 4"
        />{/if}
    {/each}
    <polyline points={drawn(curve)} fill="none" stroke={lineOf(channel)} stroke-width="2" />
    {#each curve.points as [x, y], i (i)}
      <circle
        cx={x * SIDE}
        cy={(1 - y) * SIDE}
        r={i === chosen ? 7 : 5}
        fill={lineOf(channel)}
        stroke="var(--color-base-100)"
        role="button"
        tabindex="0"
        aria-label="Point at {figure(x)} %, printed {figure(y)} %"
        onfocus={() => (chosen = i)}
        onkeydown={(event) => keys(event, i)}
      />
    {/each}
  </svg>
  <div class="flex flex-wrap items-end gap-2 text-sm">
    {#if point}
      <label
        >Asked, %<PercentBox
          block
          class="input input-xs w-20 text-right"
          label="Asked, %"
          decimals={1}
          step={0.5}
          late
          share={point[0]}
          disabled={chosen === 0 || chosen === curve.points.length - 1}
          onchange={(share) => move(chosen, [share, point[1]])}
        /></label
      >
      <label
        >Printed, %<PercentBox
          block
          class="input input-xs w-20 text-right"
          label="Printed, %"
          decimals={1}
          step={0.5}
          late
          share={point[1]}
          onchange={(share) => move(chosen, [point[0], share])}
        /></label
      >
      <button class="btn btn-xs" disabled={chosen <= 0 || chosen >= curve.points.length - 1} onclick={() => takeOut(chosen)}
        >Take the point out</button
      >
    {:else}<p class="text-base-content/70">Click on the curve to add a point, or drag one.</p>{/if}
  </div>
  <p class="flex flex-wrap items-center gap-3 text-sm">
    <label class="flex items-center gap-1"
      ><input
        type="checkbox"
        class="checkbox checkbox-xs"
        checked={curve.mayFall}
        onchange={(event) => {
          const mayFall = event.currentTarget.checked;
          let most = 0;
          // A curve that must rise again is raised where it fell.
          const points = mayFall ? curve.points : curve.points.map(([x, y]): [number, number] => [x, (most = Math.max(most, y))]);
          put({ points, mayFall });
        }}
      />it may fall</label
    >
    <button class="btn btn-xs" disabled={!tone[channel]} onclick={reset}>Straighten it</button>
  </p>
</div>
