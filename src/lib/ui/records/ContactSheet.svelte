<script lang="ts">
  import { createVirtualizer } from '@tanstack/svelte-virtual';
  import { untrack } from 'svelte';
  import { beyondMm } from '$core/artwork/choices';
  import type { Docket } from '$lib/server/dockets/dockets';
  import { readPicture } from '$lib/ui/common/client';

  interface Props {
    docket: Docket;
    /** Of the records that are printed, in their order. */
    numbers: readonly number[];
    record: number | null;
    /** At risk: they are marked. */
    marked: ReadonlySet<number>;
    onshow: (record: number) => void;
  }
  let { docket, numbers, record, marked, onshow }: Props = $props();

  let scroller = $state<HTMLDivElement>();
  let width = $state(800);
  const { widthMm, heightMm } = $derived(docket.choices);
  /** As wide as is legible; narrow pieces are not higher than this. */
  const TILE_PX = 170;
  const MOST_HIGH_PX = 220;
  const tileHeight = $derived(Math.min(MOST_HIGH_PX, (TILE_PX * heightMm) / widthMm));
  const tileWidth = $derived((tileHeight * widthMm) / heightMm);
  const columns = $derived(Math.max(1, Math.floor((width - 8) / (tileWidth + 12))));
  const rowPx = $derived(tileHeight + 34);
  const rows = $derived(Math.ceil(numbers.length / columns));
  const virtualizer = untrack(() =>
    createVirtualizer<HTMLDivElement, HTMLDivElement>({
      count: 0,
      getScrollElement: () => scroller ?? null,
      estimateSize: () => 120,
      overscan: 2,
      initialRect: { width: 800, height: 260 }
    })
  );
  $effect(() => {
    const [count, element, size] = [rows, scroller, rowPx];
    untrack(() => {
      $virtualizer.setOptions({ count, getScrollElement: () => element ?? null, estimateSize: () => size });
      $virtualizer.measure();
    });
  });
  const items = $derived($virtualizer.getVirtualItems());
  /** A strip of pictures is asked for at once. */
  const STRIP = 24;
  const stripOf = (i: number) => {
    const from = Math.floor(i / STRIP) * STRIP;
    const of = numbers.slice(from, from + STRIP);
    const px = Math.max(20, Math.min(2400, Math.round(tileWidth * 2)));
    return {
      href: `/api/dockets/${docket.id}/records/pictures?of=${of.join()}&px=${px}&version=${docket.version}`,
      count: of.length,
      nth: i - from
    };
  };
  const beyond = $derived(beyondMm(docket.choices));
  /** The base with its bleed, cut to the finished size. */
  const base = $derived(
    `background-image: url("${readPicture(docket, 240)}"); background-size: ${((widthMm + 2 * beyond) / widthMm) * 100}% ${((heightMm + 2 * beyond) / heightMm) * 100}%; background-position: center`
  );
</script>

<div
  class="h-full overflow-auto p-2"
  bind:this={scroller}
  bind:clientWidth={width}
  style="contain: strict"
  role="group"
  aria-label="Contact sheet"
>
  <div style="height: {$virtualizer.getTotalSize()}px; position: relative">
    {#each items as { index, start } (index)}
      <div class="absolute right-0 left-0 flex items-start gap-3" style="top: {start}px; height: {rowPx}px">
        {#each numbers.slice(index * columns, (index + 1) * columns) as number, i (number)}
          {@const strip = stripOf(index * columns + i)}
          <button
            class="text-left {number === record ? 'outline-primary outline-3' : ''}"
            aria-label="Record {number}{marked.has(number) ? ', at risk' : ''}"
            onclick={() => onshow(number)}
          >
            <span class="block bg-white bg-no-repeat" style="width: {tileWidth}px; height: {tileHeight}px; {base}">
              <span
                class="block h-full w-full bg-no-repeat"
                style="background-image: url('{strip.href}'); background-size: 100% {strip.count *
                  100}%; background-position: 0 {strip.count > 1 ? (strip.nth / (strip.count - 1)) * 100 : 0}%"
              ></span>
            </span>
            <span class="block text-xs {marked.has(number) ? 'font-semibold' : ''}"
              >{number}{marked.has(number) ? ' – at risk' : ''}</span
            >
          </button>
        {/each}
      </div>
    {/each}
  </div>
</div>
