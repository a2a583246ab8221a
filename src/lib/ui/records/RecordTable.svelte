<script lang="ts">
  import { createVirtualizer } from '@tanstack/svelte-virtual';
  import { untrack } from 'svelte';
  import type { TableEdit } from '$core/records/kept-table';
  import type { TableRef } from '$core/records/choices';
  import type { TablePage } from '$lib/server/records/workers/tables';
  import { isPrinted, withRecord, writeRanges } from '$core/records/ranges';
  import { attempt, send } from '$lib/ui/common/client';

  interface Props {
    docketId: number;
    table: TableRef;
    /** The record that is shown. */
    record: number | null;
    /** Only these are shown; all where there are none. */
    only: readonly number[] | null;
    /** What is said of the records that are printed. */
    printed: string;
    onprinted: (only: string) => void;
    onshow: (record: number) => void;
    onall: () => void;
    /** @returns whether it was done */
    onedit: (edit: TableEdit) => Promise<boolean>;
  }
  let { docketId, table, record, only, printed, onprinted, onshow, onall, onedit }: Props = $props();

  const isTicked = (number: number): boolean => {
    try {
      return isPrinted(printed, number);
    } catch {
      return false;
    }
  };
  async function tick(number: number, on: boolean): Promise<void> {
    await attempt(() => Promise.resolve(onprinted(withRecord(printed, number, on))));
  }
  /** All that fit what is looked for, not those alone that are on the screen. */
  async function printShown(): Promise<void> {
    await attempt(async () => {
      const numbers =
        only ?? (await send<number[]>('GET', `/api/dockets/${docketId}/records?words=${encodeURIComponent(asked)}`));
      onprinted(writeRanges(numbers.map((number) => ({ from: number, to: number }))));
    });
  }

  const ROW_PX = 30;
  /** Columns share the width, and are never narrower. */
  const COLUMN_REM = 9;
  const HEAD_PX = 34;
  /** Rows that the server gives at once. */
  const PAGE = 500;
  let scroller = $state<HTMLDivElement>();
  let words = $state('');
  let asked = $state('');
  let typing: ReturnType<typeof setTimeout> | undefined;
  function look(): void {
    clearTimeout(typing);
    typing = setTimeout(() => (asked = words), 150);
  }

  let total = $state(0);
  let pages = $state.raw<Record<number, TablePage['rows']>>({});
  let failed = $state('');
  /** What rows are of: with another table or filter they are asked for anew. */
  const key = $derived(`${table.hash}|${asked}|${only?.join() ?? ''}`);
  async function load(page: number): Promise<void> {
    const mine = key;
    const filter = `words=${encodeURIComponent(asked)}${only ? `&records=${only.join()}` : ''}`;
    try {
      const found = await send<TablePage>('GET', `/api/dockets/${docketId}/table?from=${page * PAGE}&${filter}`);
      if (mine !== key) return;
      total = found.total;
      pages = { ...pages, [page]: found.rows };
      failed = '';
    } catch (error) {
      if (mine === key) failed = error instanceof Error ? error.message : String(error);
    }
  }
  let shownKey = '';
  $effect(() => {
    if (key === shownKey) return;
    const sameRows = shownKey.split('|').slice(1).join('|') === key.split('|').slice(1).join('|');
    shownKey = key;
    untrack(() => {
      const needed = sameRows ? [...new Set([0, ...Object.keys(pages).map(Number)])] : [0];
      if (!sameRows) pages = {};
      for (const page of needed) void load(page);
    });
  });

  const virtualizer = untrack(() =>
    createVirtualizer<HTMLDivElement, HTMLTableRowElement>({
      count: 0,
      getScrollElement: () => scroller ?? null,
      estimateSize: () => ROW_PX,
      overscan: 4,
      scrollPaddingStart: HEAD_PX,
      initialRect: { width: 800, height: 260 }
    })
  );
  $effect(() => {
    const [count, element] = [total, scroller];
    untrack(() => $virtualizer.setOptions({ count, getScrollElement: () => element ?? null }));
  });
  const items = $derived($virtualizer.getVirtualItems());
  const before = $derived(items[0]?.start ?? 0);
  const after = $derived(Math.max(0, $virtualizer.getTotalSize() - (items.at(-1)?.end ?? 0)));
  // eslint-disable-next-line svelte/prefer-svelte-reactivity
  const coming = new Set<string>();
  $effect(() => {
    for (const { index } of items) {
      const page = Math.floor(index / PAGE);
      const name = `${key}/${page}`;
      if (pages[page] || coming.has(name)) continue;
      coming.add(name);
      void untrack(() => load(page)).finally(() => coming.delete(name));
    }
  });
  const rowAt = (index: number) => pages[Math.floor(index / PAGE)]?.[index % PAGE];

  let chosenRow = $state(0);
  function edit(number: number, column: string, value: string, was: string): void {
    if (value !== was) void onedit({ is: 'cell', record: number, column, value });
  }
  /** Up and down the column; Escape takes back what is typed. */
  function cellKeys(
    event: KeyboardEvent & { currentTarget: HTMLInputElement },
    index: number,
    column: number,
    was: string
  ): void {
    if (event.key === 'Escape') {
      event.currentTarget.value = was;
      event.currentTarget.blur();
      return;
    }
    // A step back within what is typed is the box's own.
    if ((event.ctrlKey || event.metaKey) && event.currentTarget.value !== was) event.stopPropagation();
    const by = event.key === 'Enter' || event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (by === 0) return;
    event.preventDefault();
    const to = Math.max(0, Math.min(total - 1, index + by));
    $virtualizer.scrollToIndex(to);
    requestAnimationFrame(() => scroller?.querySelector<HTMLInputElement>(`[data-cell="${to}/${column}"]`)?.focus());
  }

  // A column is changed in a small form of its own.
  let forColumn = $state<{ column: string | null; name: string; content: string } | null>(null);
  async function keepColumn(): Promise<void> {
    if (!forColumn) return;
    const { column, name, content } = forColumn;
    // What is refused can be typed on.
    if (await onedit(column === null ? { is: 'add column', name, content } : { is: 'rename column', column, name }))
      forColumn = null;
  }
</script>

<div class="flex h-full min-h-0 flex-col">
  <div class="flex flex-wrap items-center gap-2 px-2 py-1">
    <input
      class="input input-sm w-56"
      type="search"
      placeholder="Number, or what is in it"
      aria-label="Show records with"
      maxlength="200"
      bind:value={words}
      oninput={look}
    />
    <span class="text-base-content/70 text-sm" role="status"
      >{total.toLocaleString('en-GB')} of {table.count.toLocaleString('en-GB')}</span
    >
    {#if only}<button class="btn btn-xs" onclick={onall}>Show all again</button>{/if}
    {#if (only || asked.trim() !== '') && total > 0}
      <button class="btn btn-xs" onclick={() => void printShown()}>Print these alone</button>
    {/if}
    {#if printed !== ''}<button class="btn btn-xs" onclick={() => onprinted('')}>Print all</button>{/if}
    <span class="ml-auto flex gap-2">
      <a class="btn btn-xs" href="/api/dockets/{docketId}/table/file" download>Write it out</a>
      <button class="btn btn-xs" onclick={() => void onedit({ is: 'add rows', rows: [[]] })}>Add a record</button>
      <button class="btn btn-xs" onclick={() => (forColumn = { column: null, name: '', content: '' })}>Add a column</button>
    </span>
  </div>
  {#if forColumn}
    <form
      class="bg-base-200 flex flex-wrap items-center gap-2 px-2 py-1 text-sm"
      onsubmit={(event) => {
        event.preventDefault();
        void keepColumn();
      }}
    >
      <label>Name <input class="input input-sm w-40" required maxlength="100" bind:value={forColumn.name} /></label>
      {#if forColumn.column === null}
        <label
          >made of <input
            class="input input-sm w-64 font-mono"
            maxlength="2000"
            placeholder={'nothing; or {name}, {count, from 1}'}
            bind:value={forColumn.content}
          /></label
        >
      {:else}
        <button
          type="button"
          class="btn btn-sm"
          onclick={() => {
            void onedit({ is: 'take out column', column: forColumn!.column! });
            forColumn = null;
          }}>Take the column out</button
        >
      {/if}
      <button class="btn btn-sm btn-primary">Keep</button>
      <button type="button" class="btn btn-sm" onclick={() => (forColumn = null)}>Leave it</button>
    </form>
  {/if}
  {#if failed}<p class="text-error px-2" role="alert">{failed}</p>{/if}
  <div class="min-h-0 grow overflow-auto" bind:this={scroller} style="contain: strict">
    <table
      class="table-sm table table-fixed"
      style="width: max(100%, {9 + table.columns.length * COLUMN_REM + 3}rem)"
      aria-label="Records"
      aria-rowcount={total + 1}
    >
      <colgroup
        ><col style="width: 4rem" /><col style="width: 5rem" />{#each table.columns as column (column)}<col />{/each}<col
          style="width: 3rem"
        /></colgroup
      >
      <thead class="bg-base-100 sticky top-0 z-10">
        <tr style="height: {HEAD_PX}px">
          <th>Prints</th>
          <th class="text-right">Record</th>
          {#each table.columns as column (column)}
            <th>
              <span class="flex items-center gap-1">
                <button
                  class="max-w-40 truncate hover:underline"
                  title="Rename {column}, or take it out"
                  onclick={() => (forColumn = { column, name: column, content: '' })}>{column}</button
                >
                <button
                  class="btn btn-xs btn-ghost px-1"
                  aria-label="Sort by {column}, up"
                  onclick={() => void onedit({ is: 'sort', column, down: false })}>↑</button
                >
                <button
                  class="btn btn-xs btn-ghost px-1"
                  aria-label="Sort by {column}, down"
                  onclick={() => void onedit({ is: 'sort', column, down: true })}>↓</button
                >
              </span>
            </th>
          {/each}
          <th></th>
        </tr>
      </thead>
      <tbody>
        {#if before > 0}<tr aria-hidden="true" style="height: {before}px"></tr>{/if}
        {#each items as { index } (index)}
          {@const row = rowAt(index)}
          <tr
            style="height: {ROW_PX}px"
            aria-rowindex={index + 2}
            class={row?.record === record ? 'bg-base-300' : 'hover:bg-base-200'}
          >
            {#if row}
              <td class="py-0 text-center"
                ><input
                  type="checkbox"
                  class="checkbox checkbox-xs"
                  aria-label="Print record {row.record}"
                  checked={isTicked(row.record)}
                  onchange={(event) => {
                    const { checked } = event.currentTarget;
                    void tick(row.record, checked).then(
                      () => ((event.target as HTMLInputElement).checked = isTicked(row.record))
                    );
                  }}
                /></td
              >
              <td class="py-0 text-right"
                ><button class="link" aria-label="Show record {row.record}" onclick={() => onshow(row.record)}
                  >{row.record}</button
                ></td
              >
              {#each table.columns as column, c (column)}
                {@const cell = row.cells[c] ?? ''}
                <td class="p-0"
                  ><input
                    class="focus:bg-base-100 focus:outline-primary h-7 w-full min-w-24 bg-transparent px-2 text-sm focus:outline-2"
                    aria-label="{column} of record {row.record}"
                    data-cell="{index}/{c}"
                    maxlength="10000"
                    value={cell}
                    onfocus={() => {
                      chosenRow = index;
                      if (row.record !== record) onshow(row.record);
                    }}
                    onchange={(event) => edit(row.record, column, event.currentTarget.value, cell)}
                    onkeydown={(event) => cellKeys(event, index, c, cell)}
                  /></td
                >
              {/each}
              <td class="py-0"
                ><button
                  class="btn btn-xs btn-ghost {index === chosenRow ? '' : 'opacity-60'}"
                  aria-label="Take record {row.record} out"
                  onclick={() => void onedit({ is: 'take out rows', records: [row.record] })}>×</button
                ></td
              >
            {:else}<td colspan={table.columns.length + 3} class="text-base-content/50">…</td>{/if}
          </tr>
        {/each}
        {#if after > 0}<tr aria-hidden="true" style="height: {after}px"></tr>{/if}
      </tbody>
    </table>
    {#if total === 0}<p class="p-4 text-sm">Nothing here fits all of this.</p>{/if}
  </div>
</div>
