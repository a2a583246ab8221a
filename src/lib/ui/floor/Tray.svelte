<script lang="ts">
  import { createVirtualizer } from '@tanstack/svelte-virtual';
  import { untrack } from 'svelte';
  import type { ListPage } from '$lib/listing';
  import { TRAY } from '$lib/tray';
  import type { DocketLine } from '$lib/server/dockets/docket-list';
  import { docketPicture } from '$lib/ui/common/client';
  import { atRest } from '$lib/ui/list/at-rest';
  import { ListRows } from '$lib/ui/list/rows.svelte';
  import { fromServer } from '$lib/ui/list/source';
  import { sizeOf } from '$lib/ui/common/shop-unit';

  interface Props {
    first: ListPage<DocketLine>;
    /** Dockets are dragged out of it; nothing when that ends. */
    ondrag: (dragged: { ids: number[]; name: string } | null) => void;
    onlayout: (docket: DocketLine) => void;
    /** Asked where some could go. */
    onchoose: (ids: number[], name: string) => void;
  }
  let { first, ondrag, onlayout, onchoose }: Props = $props();

  const ROW_PX = 76;
  const PARAMS = new URLSearchParams(TRAY);
  const rows = new ListRows(fromServer<DocketLine>('dockets'), (docket) => docket.id);
  let scroller = $state<HTMLElement>();

  untrack(() => rows.show(first, PARAMS, { from: 0, to: 0 }));
  const virtualizer = untrack(() =>
    createVirtualizer<HTMLElement, HTMLLIElement>({
      count: rows.count,
      getScrollElement: () => scroller ?? null,
      estimateSize: () => ROW_PX,
      overscan: 4,
      initialRect: { width: 250, height: 700 }
    })
  );
  const items = $derived($virtualizer.getVirtualItems());
  const inSight = $derived({ from: items[0]?.index ?? 0, to: items.at(-1)?.index ?? 0 });
  $effect(() => {
    const list = first;
    untrack(() => rows.show(list, PARAMS, inSight));
  });
  $effect(() => {
    const [count, element] = [rows.count, scroller];
    untrack(() => $virtualizer.setOptions({ count, getScrollElement: () => element ?? null }));
  });
  $effect(() => rows.need(inSight));

  const named = (ids: readonly number[], name: string) => (ids.length === 1 ? name : `${ids.length} dockets`);
  /** What is ticked goes together. */
  function drag(docket: DocketLine, event: DragEvent): void {
    const ids = rows.ticked.has(docket.id) ? [...rows.ticked] : [docket.id];
    event.dataTransfer?.setData('text/plain', named(ids, docket.name));
    ondrag({ ids, name: named(ids, docket.name) });
  }
</script>

{#if rows.ticked.size > 0}
  <div class="flex items-center gap-2 px-3 pb-2 text-xs">
    <span role="status">{rows.ticked.size} ticked</span>
    <button class="btn btn-xs" onclick={() => onchoose([...rows.ticked], named([...rows.ticked], 'The docket'))}
      >To a lane …</button
    >
    <button class="btn btn-xs" onclick={() => rows.ticked.clear()}>Untick</button>
  </div>
{/if}
<div class="min-h-0 grow overflow-auto" bind:this={scroller}>
  {#if rows.count === 0}
    <p class="p-3">Nothing waits. <a class="link" href="/artwork">Take in artwork</a> to make dockets.</p>
  {:else}
    <ul class="relative" style="height: {$virtualizer.getTotalSize()}px" aria-label="Dockets in the tray">
      {#each items as { index, start } (index)}
        {@const docket = rows.at(index)}
        <li
          class="border-base-300 hover:bg-base-300 absolute inset-x-0 flex cursor-grab gap-2 border-b p-2"
          style="top: {start}px; height: {ROW_PX}px"
          aria-setsize={rows.count}
          aria-posinset={index + 1}
          draggable={docket !== undefined}
          ondragstart={(event) => docket && drag(docket, event)}
          ondragend={() => ondrag(null)}
        >
          {#if docket}
            <input
              type="checkbox"
              class="checkbox checkbox-xs mt-1"
              aria-label="Tick {docket.name}"
              checked={rows.ticked.has(docket.id)}
              onclick={async (event) => {
                const box = event.currentTarget;
                await rows.tick(index, event.shiftKey ? 'range' : 'this');
                box.checked = rows.ticked.has(docket.id);
              }}
            />
            <div class="flex h-14 w-14 shrink-0 items-center justify-center">
              <img class="max-h-14 max-w-14" alt="" draggable="false" {@attach atRest(docketPicture(docket, 240))} />
            </div>
            <div class="min-w-0 grow text-xs">
              <a class="block truncate text-sm font-semibold hover:underline" href="/dockets/{docket.id}">{docket.name}</a>
              <div class="flex items-center justify-between gap-1">
                <span class="min-w-0 truncate" title={docket.customer}>{docket.customer}</span>
                <button class="btn btn-xs h-[24px]" onclick={() => onlayout(docket)}>Lay out</button>
              </div>
              <div class="truncate">{docket.copies} of {sizeOf(docket.widthMm, docket.heightMm)}</div>
            </div>
          {/if}
        </li>
      {/each}
    </ul>
  {/if}
</div>
