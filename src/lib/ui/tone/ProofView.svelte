<script lang="ts">
  import type { Box } from '$core/geometry/box';
  import type { LiveProof } from './proof.svelte';

  /** Before and after beside each other, with a line between them that is dragged. */
  let {
    proof,
    gamut,
    part,
    onpart
  }: {
    proof: LiveProof;
    gamut: string | null;
    /** A part of the picture, shares of its sides; while it is being chosen a drag says which. */
    part: Box | null;
    onpart: ((part: Box) => void) | null;
  } = $props();

  let frame = $state<HTMLDivElement>();
  let canvas = $state<HTMLCanvasElement>();
  let map = $state<HTMLCanvasElement>();
  let split = $state(0.5);
  let dragging = false;
  /** Where a part that is being chosen begins, shares. */
  let corner = { x: 0, y: 0 };

  $effect(() => {
    const { before, after } = proof;
    if (!canvas || !before || !after) return;
    canvas.width = after.width;
    canvas.height = after.height;
    const context = canvas.getContext('2d');
    context?.putImageData(after, 0, 0);
    const at = Math.round(split * after.width);
    if (at > 0) context?.putImageData(before, 0, 0, 0, 0, at, before.height);
  });
  $effect(() => {
    const { difference } = proof;
    if (!map || !difference) return;
    map.width = difference.width;
    map.height = difference.height;
    map.getContext('2d')?.putImageData(difference, 0, 0);
  });

  const clamp = (v: number) => Math.min(1, Math.max(0, v));
  function placeOf(event: PointerEvent): { x: number; y: number } {
    const { left, top, width, height } = frame!.getBoundingClientRect();
    return { x: clamp((event.clientX - left) / width), y: clamp((event.clientY - top) / height) };
  }
  function drag(event: PointerEvent): void {
    if (!frame || !dragging) return;
    const at = placeOf(event);
    if (!onpart) {
      split = at.x;
      return;
    }
    onpart({
      x: Math.min(at.x, corner.x),
      y: Math.min(at.y, corner.y),
      width: Math.abs(at.x - corner.x),
      height: Math.abs(at.y - corner.y)
    });
  }
  function keys(event: KeyboardEvent): void {
    const by = { ArrowLeft: -0.02, ArrowRight: 0.02, Home: -1, End: 1 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    split = Math.min(1, Math.max(0, split + by));
  }
  const ratio = $derived(proof.after ? proof.after.width / proof.after.height : 1);
</script>

<div class="grid h-full min-h-0 place-items-center p-6" style="container-type: size">
  {#if proof.failed}<p class="text-error" role="alert">{proof.failed}</p>
  {:else if !proof.after}<p>Drawing it in the inks of its condition…</p>{/if}
  <div
    bind:this={frame}
    class="relative touch-none {proof.after ? '' : 'invisible'} {onpart ? 'cursor-crosshair' : ''}"
    style="width: min(100cqw, 100cqh * {ratio}); aspect-ratio: {ratio}"
    role="presentation"
    onpointerdown={(event) => {
      dragging = true;
      event.currentTarget.setPointerCapture(event.pointerId);
      corner = placeOf(event);
      if (!onpart) drag(event);
    }}
    onpointermove={drag}
    onpointerup={() => (dragging = false)}
  >
    <canvas bind:this={canvas} class="absolute inset-0 h-full w-full" aria-label="Before and after"></canvas>
    {#if gamut}<img src={gamut} alt="Colours out of reach" class="absolute inset-0 h-full w-full" draggable="false" />{/if}
    <canvas bind:this={map} class="absolute inset-0 h-full w-full {proof.difference ? '' : 'hidden'}" aria-label="Difference"
    ></canvas>
    {#if part}
      <div
        class="border-base-100 outline-base-content pointer-events-none absolute border outline-2"
        style="left: {part.x * 100}%; top: {part.y * 100}%; width: {part.width * 100}%; height: {part.height * 100}%"
      ></div>
    {/if}
    <div
      class="absolute inset-y-0 w-6 -translate-x-1/2 cursor-ew-resize"
      style:left="{split * 100}%"
      role="slider"
      tabindex="0"
      aria-label="Line between before and after"
      aria-valuemin="0"
      aria-valuemax="100"
      aria-valuenow={Math.round(split * 100)}
      onkeydown={keys}
    >
      <div class="bg-base-content mx-auto h-full w-0.5"></div>
      <span class="bg-base-100 absolute bottom-2 left-1/2 -translate-x-1/2 px-1 text-xs whitespace-nowrap">before | after</span>
    </div>
  </div>
</div>
