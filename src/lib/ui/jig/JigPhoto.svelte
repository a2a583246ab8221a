<script lang="ts">
  import { onDestroy } from 'svelte';
  import type { Point } from '$core/geometry/matrix';
  import { outlineAt, outlineOf, pocketsOf, type Jig } from '$core/layout/jig';
  import { project } from '$core/photo/homography';
  import { counted } from '$core/units/counted';
  import type { FoundInPhoto } from '$lib/server/artwork/workers/jig-photo';
  import { early } from '$lib/ui/common/early';
  import { sizeOf } from '$lib/ui/common/shop-unit';

  /** Places found in a photo of the loaded jig: looked at over the photo, and taken with a click. */
  let { id, jig, ontake }: { id: number; jig: Jig; ontake: (jig: Jig) => void } = $props();

  let dialog: HTMLDialogElement;
  let file = $state.raw<File>();
  let url = $state('');
  let size = $state.raw({ width: 4, height: 3 });
  let found = $state.raw<FoundInPhoto>();
  let why = $state('');
  let isLooking = $state(false);
  let byHand = $state(false);
  /** Of the bed, shares of the picture: front left, front right, back right, back left. */
  let corners = $state<Point[]>([]);
  const NAMES = ['front left', 'front right', 'back right', 'back left'];
  const inset = () => [{ x: 0.1, y: 0.1 }, { x: 0.9, y: 0.1 }, { x: 0.9, y: 0.9 }, { x: 0.1, y: 0.9 }]; // prettier-ignore

  onDestroy(() => URL.revokeObjectURL(url));
  export function open(): void {
    dialog.showModal();
  }
  let asked = 0;
  async function look(): Promise<void> {
    if (!file) return;
    const ask = ++asked;
    isLooking = true;
    found = undefined;
    why = '';
    try {
      const query = byHand ? `?corners=${encodeURIComponent(corners.map(({ x, y }) => `${x} ${y}`).join(' '))}` : '';
      const reply = await fetch(`/api/jigs/${id}/photo${query}`, {
        method: 'POST',
        headers: { 'content-type': 'application/octet-stream' },
        body: file
      });
      const answer = (await reply.json()) as FoundInPhoto & { error?: string };
      if (ask !== asked) return;
      if (reply.ok) found = answer;
      else why = answer.error ?? 'The photo could not be looked at.';
    } catch {
      if (ask === asked) why = 'The server does not answer. Try again when it does.';
    }
    if (ask === asked) isLooking = false;
  }
  async function take(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
    const [given] = event.currentTarget.files ?? [];
    event.currentTarget.value = '';
    if (!given) return;
    URL.revokeObjectURL(url);
    [file, url, corners, byHand] = [given, URL.createObjectURL(given), inset(), false];
    await look();
  }

  const outlines = $derived.by((): string[] => {
    if (!found) return [];
    const { jig: of, toPicture } = found;
    const outline = outlineOf(of.thing);
    return pocketsOf(of)
      .filter(({ isOff }) => !isOff)
      .map((at) =>
        outlineAt(of.thing, at, outline)
          .map((ring) => `M${ring.map((p) => shown(project(toPicture, p))).join('L')}Z`)
          .join('')
      );
  });
  const shown = ({ x, y }: Point) => `${(x * size.width).toFixed(1)} ${(y * size.height).toFixed(1)}`;
  const frame = $derived(
    byHand
      ? corners
      : found
        ? [{ x: 0, y: 0 }, { x: jig.bed.widthMm, y: 0 }, { x: jig.bed.widthMm, y: jig.bed.lengthMm }, { x: 0, y: jig.bed.lengthMm }].map((p) => project(found!.toPicture, p)) // prettier-ignore
        : []
  );

  let picture = $state<HTMLElement>();
  let dragged = $state<number>();
  function drag(event: PointerEvent): void {
    if (dragged === undefined || !picture) return;
    const box = picture.getBoundingClientRect();
    corners[dragged] = { x: (event.clientX - box.left) / box.width, y: (event.clientY - box.top) / box.height };
  }
  const KEYS: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  function nudge(event: KeyboardEvent, i: number): void {
    const by = KEYS[event.key];
    const at = corners[i];
    if (!by || !at) return;
    event.preventDefault();
    const step = event.shiftKey ? 10 : 1;
    corners[i] = { x: at.x + (by[0] * step) / size.width, y: at.y + (by[1] * step) / size.height };
  }
  const odd = $derived(found ? Object.keys(found.jig.nudges).length : 0);
</script>

<dialog bind:this={dialog} class="modal" aria-label="Find places in a photo">
  <div class="modal-box flex max-h-[92vh] w-[64rem] max-w-[94vw] flex-col gap-3">
    <h2 class="text-lg font-semibold">Places in a photo</h2>
    <p class="text-sm">
      Lay things in, on the printed sheet of marks for this bed ({sizeOf(jig.bed.widthMm, jig.bed.lengthMm)}), and photograph all
      of it from high above. Without marks show the four corners of the bed.
    </p>
    <div class="flex flex-wrap items-center gap-2">
      <label class="btn btn-sm {isLooking ? 'btn-disabled' : ''}"
        >{file ? 'Another photo' : 'Take a photo'}<input
          type="file"
          {@attach early}
          class="sr-only"
          accept="image/*"
          disabled={isLooking}
          onchange={take}
        /></label
      >
      {#if file}
        <label class="text-sm"
          ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={byHand} onchange={() => (found = undefined)} /> the corners
          of the bed by hand</label
        >
        {#if byHand}<button class="btn btn-sm" disabled={isLooking} onclick={look}>Look again</button>{/if}
      {/if}
      {#if isLooking}<span role="status"><span class="loading loading-spinner loading-sm"></span> It is looked at …</span>{/if}
    </div>
    {#if why}<p class="text-error" role="alert">{why}</p>{/if}
    {#if found}
      <p role="status">
        <span class="font-semibold">{counted(found.things, 'place')} found</span>, {sizeOf(
          found.jig.thing.widthMm,
          found.jig.thing.heightMm
        )},
        {found.inGrid
          ? `in a grid of ${found.jig.columns} × ${found.jig.rows}${found.jig.off.length > 0 ? `, ${found.jig.off.length} of them empty` : ''}${odd > 0 ? `, ${odd} a little off it` : ''}`
          : 'each at a place of its own'}.
        {found.marks > 0
          ? `${counted(found.marks, 'mark')} agree within ${found.residualMm.toFixed(2)} mm; a pixel is ${found.pixelMm.toFixed(2)} mm.`
          : `Seen by four corners, which nothing checks; a pixel is ${found.pixelMm.toFixed(2)} mm.`}
      </p>
    {/if}
    {#if url}
      <div class="bg-base-300 min-h-0 grow overflow-auto">
        <!-- svelte-ignore a11y_no_static_element_interactions -->
        <div
          bind:this={picture}
          class="relative mx-auto w-full touch-none"
          style="max-width: calc(60vh * {size.width / size.height})"
          onpointermove={drag}
          onpointerup={() => (dragged = undefined)}
        >
          <img
            src={url}
            alt="The loaded jig"
            class="block w-full"
            onload={({ currentTarget }) => {
              const { naturalWidth, naturalHeight } = currentTarget as HTMLImageElement;
              size = { width: naturalWidth || 4, height: naturalHeight || 3 };
            }}
          />
          <svg
            class="pointer-events-none absolute inset-0 h-full w-full"
            viewBox="0 0 {size.width} {size.height}"
            aria-hidden="true"
          >
            {#if frame.length > 0}<path
                d="M{frame.map(shown).join('L')}Z"
                fill="none"
                stroke="#0a58ca"
                stroke-width="2"
                vector-effect="non-scaling-stroke"
              />{/if}
            {#each outlines as d, i (i)}<path
                {d}
                fill="#0a58ca33"
                stroke="#0a58ca"
                stroke-width="2"
                vector-effect="non-scaling-stroke"
              />{/each}
          </svg>
          {#if byHand}
            {#each corners as { x, y }, i (i)}
              <button
                class="absolute size-6 -translate-x-1/2 -translate-y-1/2 cursor-move rounded-full border-2 border-white bg-[#0a58ca]/60"
                style="left: {x * 100}%; top: {y * 100}%"
                aria-label="Corner {NAMES[i]}"
                title="{NAMES[i]}: drag it, or move it with the arrows"
                onpointerdown={(event) => {
                  dragged = i;
                  event.currentTarget.setPointerCapture(event.pointerId);
                }}
                onkeydown={(event) => nudge(event, i)}
              ></button>
            {/each}
          {/if}
        </div>
      </div>
    {/if}
    <div class="flex justify-end gap-2">
      <button class="btn btn-sm" onclick={() => dialog.close()}>Close</button>
      <button
        class="btn btn-sm btn-primary"
        disabled={!found}
        onclick={() => {
          if (found) ontake(found.jig);
          dialog.close();
        }}>Take these places</button
      >
    </div>
  </div>
</dialog>
