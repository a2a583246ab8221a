<script lang="ts">
  import Trash from '@lucide/svelte/icons/trash-2';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { toast } from 'svelte-sonner';
  import type { NamedColour } from '$core/colour/named-colour';
  import { counted } from '$core/units/counted';
  import type { ColourLine } from '$lib/server/conditions/colour-list';
  import ColourForm from '$lib/ui/colour/ColourForm.svelte';
  import ColourSections from '$lib/ui/colour/ColourSections.svelte';
  import { screenColour } from '$lib/ui/colour/show';
  import TakeColours from '$lib/ui/colour/TakeColours.svelte';
  import { attempt, send } from '$lib/ui/common/client';
  import type { Column } from '$lib/ui/list/column';
  import ListTable from '$lib/ui/list/ListTable.svelte';
  import { ListRows } from '$lib/ui/list/rows.svelte';
  import { fromServer } from '$lib/ui/list/source';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  const idOf = ({ id }: ColourLine) => id;
  const rows = new ListRows(fromServer<ColourLine>('colours'), idOf);
  const COLUMNS: Column[] = [
    { key: 'colour', label: 'Colour', sort: 'hue', width: 5.5 },
    { key: 'name', label: 'Name', sort: 'name', isName: true },
    { key: 'l', label: 'L*', sort: 'lightness', width: 4, right: true },
    { key: 'a', label: 'a*', width: 4, right: true },
    { key: 'b', label: 'b*', sort: 'chroma', width: 4, right: true },
    { key: 'collection', label: 'Collection', sort: 'collection', width: 11 },
    { key: 'own', label: 'Own inks', width: 8 }
  ];
  const NEW: NamedColour = { name: '', lab: [0, 0, 0], others: [], collection: '', from: '', note: '' };
  const figure = (v: number) => v.toFixed(1).replace('-', '−');

  // A docket sends a colour along that the shop does not know yet.
  const given = $derived(page.url.searchParams.get('name'));
  let isAdding = $state(false);

  const add = (colour: NamedColour) =>
    attempt(async () => {
      const { id } = await send<ColourLine>('POST', '/api/colours', colour);
      await goto(`/colour/named/${id}`);
    });
  async function remove(): Promise<void> {
    const ids = [...rows.ticked];
    await attempt(async () => {
      const { deleted } = await send<{ deleted: number }>('DELETE', '/api/colours', { ids });
      rows.ticked.clear();
      toast.success(deleted === 1 ? 'One colour is deleted.' : `${deleted} colours are deleted.`, {
        action: {
          label: 'Bring back',
          onClick: () => void attempt(() => send('POST', '/api/colours/back', { ids }))
        },
        duration: 15_000
      });
    });
  }
  const inCollection = $derived(page.url.searchParams.getAll('collection'));
  const saved = (format: string) =>
    `/api/colours/file?format=${format}${inCollection.length === 1 ? `&collection=${encodeURIComponent(inCollection[0] ?? '')}` : ''}`;
</script>

<svelte:head><title>Named colours</title></svelte:head>
<h1 class="sr-only">Named colours</h1>
<div class="flex h-full flex-col">
  <ColourSections />
  <div class="min-h-0 grow">
    <ListTable
      name="named colours"
      first={data.list}
      shape={data.shape}
      {rows}
      {idOf}
      nameOf={({ name }) => name}
      hrefOf={({ id }) => `/colour/named/${id}`}
      columns={COLUMNS}
      rowHeight={40}
      facetTitles={{ collection: 'Collection' }}
      lookFor="Name, collection, from whom"
      besideOpen={isAdding || given !== null}
    >
      {#snippet cell(line, key)}
        {#if key === 'colour'}<span class="block h-6 w-14" style:background={screenColour(line.lab)}></span>
        {:else if key === 'name'}<a class="link block truncate font-semibold" href="/colour/named/{line.id}">{line.name}</a>
          {#if line.others.length > 0}<div class="text-base-content/70 truncate text-xs">also {line.others.join(', ')}</div>{/if}
        {:else if key === 'l'}{figure(line.lab[0])}
        {:else if key === 'a'}{figure(line.lab[1])}
        {:else if key === 'b'}{figure(line.lab[2])}
        {:else if key === 'collection'}<div class="truncate">{line.collection}</div>
        {:else if line.own > 0}on {counted(line.own, 'condition')}{/if}
      {/snippet}
      {#snippet actions()}
        {#if rows.ticked.size > 0}
          <button class="btn btn-sm" onclick={remove}><Trash size={16} aria-hidden="true" />Delete {rows.ticked.size}</button>
        {/if}
        <button class="btn btn-primary btn-sm" aria-expanded={isAdding} onclick={() => (isAdding = !isAdding)}
          >Add a colour</button
        >
        <TakeColours />
        <details class="dropdown dropdown-end">
          <summary class="btn btn-sm">Save as a file</summary>
          <ul class="dropdown-content menu bg-base-100 border-base-300 z-10 w-56 border">
            {#each [['csv', 'Table (CSV)'], ['cgats', 'CGATS'], ['cxf', 'CxF3']] as const as [format, words] (format)}
              <li><a href={saved(format)} download>{words}{inCollection.length === 1 ? `: ${inCollection[0]}` : ''}</a></li>
            {/each}
          </ul>
        </details>
      {/snippet}
      {#snippet empty()}
        A named colour is a name with its L*a*b*. Artwork that asks for it by name gets the same colour on every media, whatever
        its file shows. Add the first one, or take a file of them: a table (CSV), CGATS or CxF3.
      {/snippet}
      {#snippet beside()}
        {#if isAdding || given !== null}
          <aside class="border-base-300 min-h-0 w-96 shrink-0 overflow-y-auto border-l p-4" aria-label="New colour">
            <h2 class="mb-2 font-semibold">New colour</h2>
            {#key given}
              <ColourForm
                colour={{ ...NEW, name: given ?? '' }}
                collections={data.collections}
                onsave={add}
                saveWords="Add the colour"
              />
            {/key}
          </aside>
        {/if}
      {/snippet}
    </ListTable>
  </div>
</div>
