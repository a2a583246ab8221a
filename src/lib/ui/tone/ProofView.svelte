<script lang="ts">
  import type { LiveProof } from './proof.svelte';

  /** Before and after beside each other, with a line between them that is dragged. */
  let { proof, gamut }: { proof: LiveProof; gamut: string | null } = $props();

  let frame = $state<HTMLDivElement>();
  let canvas = $state<HTMLCanvasElement>();
  let map = $state<HTMLCanvasElement>();
  let split = $state(0.5);
  let dragging = false;

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

  function drag(event: PointerEvent): void {
    if (!frame || !dragging) return;
    const { left, width } = frame.getBoundingClientRect();
    split = Math.min(1, Math.max(0, (event.clientX - left) / width));
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
    class="relative touch-none {proof.after ? '' : 'invisible'}"
    style="width: min(100cqw, 100cqh * {ratio}); aspect-ratio: {ratio}"
    role="presentation"
    onpointerdown={(event) => {
      dragging = true;
      event.currentTarget.setPointerCapture(event.pointerId);
      drag(event);
    }}
    onpointermove={drag}
    onpointerup={() => (dragging = false)}
  >
    <canvas bind:this={canvas} class="absolute inset-0 h-full w-full" aria-label="Before and after"></canvas>
    {#if gamut}<img src={gamut} alt="Colours out of reach" class="absolute inset-0 h-full w-full" draggable="false" />{/if}
    <canvas bind:this={map} class="absolute inset-0 h-full w-full {proof.difference ? '' : 'hidden'}" aria-label="Difference"
    ></canvas>
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
