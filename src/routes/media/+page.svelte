<script lang="ts">
  import Lock from '@lucide/svelte/icons/lock';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { counted } from '$core/units/counted';
  import { areaUnit } from '$core/units/length';
  import { localPage, localShape, readListQuery, type LocalSpec } from '$lib/listing';
  import type { Media } from '$lib/server/media/cards';
  import { early } from '$lib/ui/common/early';
  import { attempt, send } from '$lib/ui/common/client';
  import { once } from '$lib/ui/common/once';
  import { live } from '$lib/ui/common/live.svelte';
  import type { Column } from '$lib/ui/list/column';
  import ListTable from '$lib/ui/list/ListTable.svelte';
  import { ListRows } from '$lib/ui/list/rows.svelte';
  import { fromRows } from '$lib/ui/list/source';
  import ImportCards from '$lib/ui/media/ImportCards.svelte';
  import { screenColour } from '$lib/ui/colour/show';
  import type { PageProps } from './$types';
  import { tape, widthOf } from '$lib/ui/common/shop-unit';

  let { data }: PageProps = $props();

  let importing = $state<File>();
  const loaded = $derived(
    data.machines.map(live.machine).flatMap((one) => (one.printer ? [{ media: one.printer.media.name, on: one.name }] : []))
  );
  const inStock = ({ card }: Media) => card.rolls.reduce((sum, roll) => sum + roll.lengthMm, 0);
  const sheetsInStock = ({ card }: Media) => card.sheets.reduce((sum, { count }) => sum + count, 0);

  const SPEC: LocalSpec<Media> = {
    id: ({ id }) => id,
    words: ({ card }) => `${card.name} ${card.maker} ${card.family} ${card.surface} ${card.note}`,
    sorts: {
      name: ({ card }) => card.name,
      family: ({ card }) => card.family,
      width: ({ card }) => card.widthMm,
      thickness: ({ card }) => card.thicknessMm,
      cost: ({ card }) => card.costPerM2,
      stock: inStock,
      conditions: ({ conditions }) => conditions
    },
    facets: {
      machine: ({ card }) => Object.keys(card.handling),
      family: ({ card }) => card.family,
      surface: ({ card }) => card.surface,
      maker: ({ card }) => card.maker || 'no maker',
      stock: (media) => (inStock(media) > 0 || sheetsInStock(media) > 0 ? 'in stock' : 'none'),
      look: ({ looks }) => (looks.length > 0 ? 'to look at' : 'fine')
    },
    usual: { sort: 'name', down: false }
  };
  const shape = localShape(SPEC);
  const first = $derived(localPage(data.media, SPEC, readListQuery(page.url.searchParams, shape)));
  const rows = new ListRows(
    fromRows(() => data.media, SPEC),
    SPEC.id
  );
  const area = $derived(areaUnit(data.settings.unit));
  const columns: Column[] = $derived([
    { key: 'name', label: 'Name', sort: 'name', isName: true },
    { key: 'family', label: 'Family', sort: 'family', width: 9 },
    { key: 'width', label: 'Width', sort: 'width', width: 5.5, right: true },
    { key: 'thickness', label: 'Thick, mm', sort: 'thickness', width: 5.5, right: true },
    { key: 'cost', label: `Cost a ${area.name}`, sort: 'cost', width: 5.5, right: true },
    { key: 'stock', label: 'In stock', sort: 'stock', width: 6, right: true },
    { key: 'white', label: 'White', width: 7 },
    { key: 'machines', label: 'Machines' },
    { key: 'conditions', label: 'Conditions', sort: 'conditions', width: 6, right: true }
  ]);
  const TITLES = {
    machine: 'For machine',
    family: 'Family',
    surface: 'Surface',
    maker: 'Maker',
    stock: 'Stock',
    look: 'Settings'
  };

  const add = once(() =>
    attempt(async () => {
      const made = await send<{ id: number }>('POST', '/api/media', {});
      await goto(`/media/${made.id}`);
    })
  );
  function chooseFile(event: Event): void {
    const input = event.currentTarget as HTMLInputElement;
    importing = input.files?.[0];
    input.value = '';
  }
</script>

<ListTable
  name="media"
  {first}
  {shape}
  {rows}
  idOf={SPEC.id}
  nameOf={({ card }) => card.name}
  hrefOf={({ id }) => `/media/${id}`}
  {columns}
  rowHeight={44}
  facetTitles={TITLES}
  lookFor="gloss, banner …"
>
  {#snippet cell(media, key)}
    {@const { card } = media}
    {#if key === 'name'}
      <a class="link font-semibold" href="/media/{media.id}">{card.name}</a>{#if media.locked}<Lock
          size={13}
          class="ml-1 inline"
          aria-label="locked"
        />{/if}
      <div class="text-base-content/70 truncate text-xs">
        {[card.maker, ...loaded.filter((one) => one.media === card.name).map(({ on }) => `loaded on ${on}`)]
          .filter(Boolean)
          .join(', ')}
      </div>
    {:else if key === 'family'}{card.family}
      <div class="text-base-content/70 text-xs">{card.surface}</div>
    {:else if key === 'width'}{widthOf(card.widthMm)}
    {:else if key === 'thickness'}{card.thicknessMm}
    {:else if key === 'cost'}{data.settings.currency}{(card.costPerM2 * area.m2).toFixed(2)}
    {:else if key === 'stock'}
      {inStock(media) > 0 ? tape(inStock(media)) : sheetsInStock(media) > 0 ? counted(sheetsInStock(media), 'sheet') : 'none'}
    {:else if key === 'white'}
      {#if card.white}<span class="inline-flex items-center gap-1.5"
          ><span class="border-base-content/30 h-4 w-4 border" style:background={screenColour(card.white)}></span>L* {card.white[0].toFixed(
            1
          )}</span
        >{:else}not measured{/if}
    {:else if key === 'machines'}
      <div class="truncate" title={Object.keys(card.handling).join(', ')}>
        {Object.keys(card.handling).join(', ') || 'none yet'}
      </div>
      {#if media.looks.length > 0}<div class="text-warning text-xs">{media.looks.length} to look at</div>{/if}
    {:else if key === 'conditions'}{media.conditions}{/if}
  {/snippet}
  {#snippet actions()}
    {#if data.away.length > 0}
      <details class="dropdown dropdown-end">
        <summary class="btn btn-sm">{data.away.length} put away</summary>
        <ul class="dropdown-content bg-base-100 border-base-300 z-20 max-h-96 w-72 overflow-auto border p-2 text-sm">
          {#each data.away as { id, name } (id)}
            <li><a class="hover:bg-base-200 block px-2 py-1" href="/media/{id}">{name}</a></li>
          {/each}
        </ul>
      </details>
    {/if}
    <button class="btn btn-sm btn-primary" onclick={add}>New card</button>
    <a class="btn btn-sm" href="/media/library">Media library</a>
    <label class="btn btn-sm"
      >Import cards<input
        type="file"
        {@attach early}
        class="sr-only"
        accept=".zip,application/zip"
        onchange={chooseFile}
      /></label
    >
    {#if rows.ticked.size > 0}
      <a class="btn btn-sm" href="/api/media/file?ids={[...rows.ticked].join(',')}" download
        >Export {counted(rows.ticked.size, 'card')}</a
      >
    {:else}<button class="btn btn-sm" disabled title="Tick cards to export them">Export</button>{/if}
  {/snippet}
  {#snippet empty()}
    No media yet. A card says what a media is, what it costs, and how machines are to treat it. Make the first, take makers’ cards
    from the media library, or import a file.
  {/snippet}
</ListTable>
{#if importing}<ImportCards file={importing} onclose={() => (importing = undefined)} />{/if}
