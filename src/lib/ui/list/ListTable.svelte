<script lang="ts" generics="Row">
  import ArrowDown from '@lucide/svelte/icons/arrow-down';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import { createVirtualizer } from '@tanstack/svelte-virtual';
  import { onDestroy, untrack, type Snippet } from 'svelte';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { listAddress, readListQuery, writeListQuery, type ListPage, type ListQuery, type ListShape } from '$lib/listing';
  import { leastWidth, mostWidth, TICK_WIDTH, type Column } from './column';
  import Facets from './Facets.svelte';
  import type { ListRows } from './rows.svelte';
  import { Rush } from './rush.svelte';

  interface Props {
    /** What the table is a list of, for who does not see it. */
    name: string;
    first: ListPage<Row>;
    shape: ListShape;
    rows: ListRows<Row>;
    idOf: (row: Row) => number;
    nameOf: (row: Row) => string;
    /** Where a row leads by Enter. */
    hrefOf?: (row: Row) => string | undefined;
    columns: readonly Column[];
    /** Pixels; all rows are as high. */
    rowHeight: number;
    facetTitles: Readonly<Record<string, string>>;
    /** Whether something is done with rows that are ticked. */
    tickable?: boolean;
    /** Rows with which nothing can be done yet are not ticked one by one. */
    canTick?: (row: Row) => boolean;
    /** What can be looked for, in the empty box. */
    lookFor: string;
    /** By order: what rows that stand together have alike; the first of each is set off. */
    groups?: Readonly<Record<string, (row: Row) => string>>;
    /** Told whether the row above says the same. */
    cell: Snippet<[Row, string, boolean]>;
    /** Beside the box: what is done with what is ticked. */
    actions?: Snippet;
    /** Where there is nothing at all. */
    empty: Snippet;
    beside?: Snippet;
    /** Something stands beside it: where there is no room for both, what narrows down makes way. */
    besideOpen?: boolean;
  }
  let {
    name,
    first,
    shape,
    rows,
    idOf,
    nameOf,
    hrefOf,
    columns,
    rowHeight,
    facetTitles,
    tickable = true,
    canTick = () => true,
    lookFor,
    groups = {},
    cell,
    actions,
    empty,
    beside,
    besideOpen = false
  }: Props = $props();

  const HEAD_PX = 40;
  /** In a small window the rows have its place until it is asked for. */
  let narrowing = $state(false);
  const id = $props.id();
  const query = $derived(readListQuery(page.url.searchParams, shape));
  const params = $derived(writeListQuery(query, shape));
  let scroller = $state<HTMLDivElement>();
  let at = $state(0);
  let words = $state(untrack(() => query.words));

  // Before anything is drawn, on the server too.
  untrack(() => rows.show(first, params, { from: 0, to: 0 }));
  const virtualizer = untrack(() =>
    createVirtualizer<HTMLDivElement, HTMLTableRowElement>({
      count: rows.count,
      getScrollElement: () => scroller ?? null,
      estimateSize: () => rowHeight,
      overscan: 6,
      scrollPaddingStart: HEAD_PX,
      initialRect: { width: 1000, height: 700 }
    })
  );
  const items = $derived($virtualizer.getVirtualItems());
  const inSight = $derived({ from: items[0]?.index ?? 0, to: items.at(-1)?.index ?? 0 });
  const before = $derived(items[0]?.start ?? 0);
  const after = $derived(Math.max(0, $virtualizer.getTotalSize() - (items.at(-1)?.end ?? 0)));

  let shownParams = untrack(() => params.toString());
  $effect(() => {
    const [list, asked] = [first, params];
    untrack(() => {
      rows.show(list, asked, inSight);
      if (asked.toString() === shownParams) return;
      shownParams = asked.toString();
      at = 0;
      scroller?.scrollTo({ top: 0 });
    });
  });
  $effect(() => {
    const [count, element] = [rows.count, scroller];
    untrack(() => $virtualizer.setOptions({ count, getScrollElement: () => element ?? null }));
  });
  $effect(() => rows.need(inSight));

  const rush = new Rush();
  onDestroy(() => rush.end());
  /** While it rushes by: the rows that were drawn before, which stay as they are. */
  let drawn = untrack(() => inSight);
  $effect.pre(() => {
    if (!rush.isOn) drawn = inSight;
  });
  const isPlain = (index: number): boolean => rush.isOn && (index < drawn.from || index > drawn.to);

  function go(next: ListQuery): void {
    const address = listAddress(page.url.searchParams, next, shape);
    void goto(address ? `?${address}` : page.url.pathname, { replaceState: true, keepFocus: true, noScroll: true });
  }
  const groupOf = $derived(groups[query.sort]);
  const repeatsAbove = (index: number, row: Row): boolean => {
    const above = groupOf && rows.at(index - 1);
    return groupOf !== undefined && above !== undefined && groupOf(above) === groupOf(row);
  };
  let typing: ReturnType<typeof setTimeout> | undefined;
  function look(): void {
    clearTimeout(typing);
    typing = setTimeout(() => go({ ...query, words }), 150);
  }
  function sortBy(sort: string): void {
    go({ ...query, sort, down: query.sort === sort ? !query.down : false });
  }
  const filtered = $derived(query.words.trim() !== '' || Object.values(query.facets).some((values) => values.length > 0));
  const allTicked = $derived(rows.ticked.size > 0 && rows.ticked.size >= Math.min(rows.count, 5000));

  async function tick(index: number, event: MouseEvent | KeyboardEvent, alone: boolean): Promise<void> {
    at = index;
    const row = rows.at(index);
    if (!tickable || !row || !canTick(row)) return;
    await rows.tick(index, event.shiftKey ? 'range' : alone && !event.ctrlKey && !event.metaKey ? 'alone' : 'this');
  }
  function press(index: number, event: MouseEvent): void {
    // What is a link or a button does its own.
    if (event.target instanceof Element && event.target.closest('a, button, input, select, label')) return;
    void tick(index, event, true);
  }
  async function pressBox(index: number, row: Row, event: MouseEvent): Promise<void> {
    const box = event.currentTarget as HTMLInputElement;
    await tick(index, event, false);
    box.checked = rows.ticked.has(idOf(row));
  }

  function moveTo(index: number, event: KeyboardEvent): void {
    const next = Math.max(0, Math.min(rows.count - 1, index));
    $virtualizer.scrollToIndex(next);
    at = next;
    if (event.shiftKey && tickable) void rows.tick(next, 'range');
  }
  const STEPS: Record<string, (row: number, sight: number) => number> = {
    ArrowDown: (row) => row + 1,
    ArrowUp: (row) => row - 1,
    PageDown: (row, sight) => row + sight,
    PageUp: (row, sight) => row - sight,
    Home: () => 0,
    End: () => Infinity
  };
  function keys(event: KeyboardEvent): void {
    if (event.target !== event.currentTarget || event.altKey) return;
    const step = STEPS[event.key];
    const row = rows.at(at);
    if (step) moveTo(step(at, Math.max(1, Math.floor((scroller?.clientHeight ?? 0) / rowHeight) - 1)), event);
    else if (event.key === ' ') void tick(at, event, false);
    else if (event.key === 'a' && (event.ctrlKey || event.metaKey) && tickable) void rows.tickAll();
    else if (event.key === 'Escape' && rows.ticked.size > 0) rows.ticked.clear();
    else if (event.key === 'Enter' && row && hrefOf?.(row)) void goto(hrefOf(row)!);
    else return;
    event.preventDefault();
  }
</script>

<div class="flex h-full min-h-0">
  <div class="flex min-h-0 {besideOpen ? 'max-[1500px]:hidden' : narrowing ? '' : 'max-[1000px]:hidden'}">
    <Facets facets={first.facets} {query} {shape} titles={facetTitles} onchange={go} />
  </div>
  <div class="flex min-w-0 grow flex-col">
    <div class="flex min-h-14 flex-wrap items-center gap-3 p-3" style:max-width="{mostWidth(columns, tickable)}rem">
      <input
        class="input input-sm w-72"
        type="search"
        placeholder={lookFor}
        aria-label="Show {name} with"
        maxlength="200"
        bind:value={words}
        oninput={look}
      />
      <span class="text-base-content/70" role="status"
        >{rows.count.toLocaleString('en-GB')} of {first.all.toLocaleString('en-GB')}{rows.ticked.size > 0
          ? `, ${rows.ticked.size.toLocaleString('en-GB')} ticked`
          : ''}</span
      >
      {#if filtered}<button
          class="btn btn-xs"
          onclick={() => {
            words = '';
            go({ ...query, words: '', facets: {} });
          }}>Show all again</button
        >{/if}
      {#if !besideOpen}<button
          class="btn btn-sm min-[1000px]:hidden"
          aria-expanded={narrowing}
          onclick={() => (narrowing = !narrowing)}>Narrow down</button
        >{/if}
      <div class="ml-auto flex flex-wrap items-center gap-2">{@render actions?.()}</div>
    </div>
    {#if rows.failed}<p class="text-error px-3 pb-2" role="alert">{rows.failed}</p>{/if}
    <!-- On a ground of its own it is moved as it is, and not drawn anew. -->
    <div
      class="bg-base-100 min-h-0 grow overflow-auto"
      bind:this={scroller}
      style="contain: strict"
      onscroll={(event) => rush.moved(event.currentTarget.scrollTop, event.timeStamp)}
    >
      <table
        class="table-sm focus-visible:outline-primary table table-fixed outline-offset-[-2px] focus-visible:outline-2"
        role="grid"
        style:--row="{rowHeight - 2}px"
        style:min-width="{leastWidth(columns, tickable)}rem"
        style:max-width="{mostWidth(columns, tickable)}rem"
        aria-label={name}
        aria-multiselectable={tickable}
        aria-rowcount={rows.count + 1}
        aria-activedescendant={rows.count > 0 ? `${id}-${at}` : undefined}
        tabindex="0"
        onkeydown={keys}
      >
        <colgroup
          >{#if tickable}<col style:width="{TICK_WIDTH}rem" />{/if}{#each columns as { key, width } (key)}<col
              style:width={width && `${width}rem`}
            />{/each}</colgroup
        >
        <thead class="bg-base-100 sticky top-0 z-10">
          <tr aria-rowindex="1" style="height: {HEAD_PX}px">
            {#if tickable}<th
                ><input
                  type="checkbox"
                  class="checkbox checkbox-sm"
                  aria-label="Tick all {name} that are shown"
                  checked={allTicked}
                  indeterminate={rows.ticked.size > 0 && !allTicked}
                  onchange={() => (allTicked ? rows.ticked.clear() : void rows.tickAll())}
                /></th
              >{/if}
            {#each columns as { key, label, sort, right } (key)}
              <th
                class={right ? 'text-right' : ''}
                aria-sort={sort && query.sort === sort ? (query.down ? 'descending' : 'ascending') : undefined}
              >
                {#if sort}
                  <button
                    class="inline-flex min-h-6 items-center gap-1 hover:underline {query.sort === sort
                      ? 'text-base-content'
                      : ''}"
                    onclick={() => sortBy(sort)}
                    >{label}{#if query.sort === sort}{#if query.down}<ArrowDown size={14} aria-hidden="true" />{:else}<ArrowUp
                          size={14}
                          aria-hidden="true"
                        />{/if}{/if}</button
                  >
                {:else}{label}{/if}
              </th>
            {/each}
          </tr>
        </thead>
        <tbody>
          {#if before > 0}<tr aria-hidden="true" style="height: {before}px"></tr>{/if}
          {#each items as { index } (index)}
            {@const row = rows.at(index)}
            {@const repeats = row !== undefined && repeatsAbove(index, row)}
            {@const ticked = row !== undefined && rows.ticked.has(idOf(row))}
            <tr
              id="{id}-{index}"
              style="height: {rowHeight}px"
              class="hover:bg-base-200 [table:focus-visible_&]:aria-[current]:outline-2 {ticked ? 'bg-base-300' : ''} {groupOf &&
              !repeats
                ? '[&>td]:border-t-base-content/50 [&>td]:border-t-2'
                : ''} outline-primary outline-offset-[-2px]"
              aria-rowindex={index + 2}
              aria-selected={tickable ? ticked : undefined}
              aria-current={index === at ? 'true' : undefined}
              onclick={(event) => press(index, event)}
            >
              {#if row && isPlain(index)}
                {#if tickable}<td></td>{/if}
                {#each columns as { key, isName, sort, right } (key)}
                  <td class="py-0 {right ? 'text-right' : ''}"
                    >{#if isName}{nameOf(row)}{:else if sort === query.sort && key !== 'picture'}{@render cell(
                        row,
                        key,
                        false
                      )}{/if}</td
                  >
                {/each}
              {:else if row}
                {#if tickable}<td
                    >{#if canTick(row)}<input
                        type="checkbox"
                        class="checkbox checkbox-sm"
                        aria-label="Tick {nameOf(row)}"
                        tabindex="-1"
                        checked={ticked}
                        onclick={(event) => void pressBox(index, row, event)}
                      />{/if}</td
                  >{/if}
                {#each columns as { key, right } (key)}
                  <td class="py-0 {right ? 'text-right' : ''}"
                    ><div class="max-h-(--row) overflow-hidden">
                      {@render cell(row, key, repeats && key === query.sort)}
                    </div></td
                  >
                {/each}
              {:else}<td colspan={columns.length + 1} class="text-base-content/50">…</td>{/if}
            </tr>
          {:else}
            <tr
              ><td colspan={columns.length + 1} class="p-6"
                >{#if first.all > 0 || filtered}Nothing here fits all of this.{:else}{@render empty()}{/if}</td
              ></tr
            >
          {/each}
          {#if after > 0}<tr aria-hidden="true" style="height: {after}px"></tr>{/if}
        </tbody>
      </table>
    </div>
  </div>
  {@render beside?.()}
</div>
