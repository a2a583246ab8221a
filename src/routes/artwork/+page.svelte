<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import FileUp from '@lucide/svelte/icons/file-up';
  import OctagonX from '@lucide/svelte/icons/octagon-x';
  import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
  import Trash from '@lucide/svelte/icons/trash-2';
  import { onMount } from 'svelte';
  import { toast } from 'svelte-sonner';
  import { isTool, ruleFor } from '$core/artwork/roles';
  import { counted } from '$core/units/counted';
  import { sizeFigure } from '$core/units/length';
  import { early } from '$lib/ui/common/early';
  import type { ArtworkLine } from '$lib/server/artwork/artwork-list';
  import { attempt, fileSize, send } from '$lib/ui/common/client';
  import { once } from '$lib/ui/common/once';
  import { readPages } from '$lib/ui/common/page-range';
  import { atRest } from '$lib/ui/list/at-rest';
  import type { Column } from '$lib/ui/list/column';
  import ListTable from '$lib/ui/list/ListTable.svelte';
  import { ListRows } from '$lib/ui/list/rows.svelte';
  import { fromServer } from '$lib/ui/list/source';
  import { uploads } from '$lib/ui/common/upload.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  let chooser: HTMLInputElement;
  let over = $state(false);

  onMount(() => {
    if (page.url.searchParams.has('take')) chooser.click();
  });

  function take(files: FileList | null | undefined): void {
    if (files && files.length > 0) void uploads.take(files);
  }

  const idOf = (line: ArtworkLine) => line.id;
  const rows = new ListRows(fromServer<ArtworkLine>('artwork'), idOf);
  const columns: Column[] = $derived([
    { key: 'picture', label: 'Added', sort: 'added', width: 7.5 },
    { key: 'file', label: 'File', sort: 'name', isName: true },
    { key: 'size', label: `Size, ${data.settings.unit}`, sort: 'size', width: 9.5 },
    { key: 'colours', label: 'Colours', width: 8 },
    { key: 'cuts', label: 'Cut lines', width: 7 },
    { key: 'pictures', label: 'Pictures', sort: 'ppi', width: 6.5 },
    { key: 'go', label: 'Dockets', sort: 'used', width: 13.5, right: true }
  ]);
  const TITLES = { state: 'State', used: 'Dockets', look: 'To look at', format: 'Format' };

  let range = $state<Record<number, string>>({});

  async function goOnWith(ids: readonly number[]): Promise<void> {
    rows.ticked.clear();
    // One is gone on with at once; many are edited together.
    await goto(ids.length === 1 ? `/dockets/${ids[0]}` : `/dockets?tick=${ids.join(',')}`);
  }
  const makeDockets = once((pages: readonly { artworkId: number; page: number }[]) =>
    attempt(async () => goOnWith((await send<{ ids: number[] }>('POST', '/api/dockets', { pages })).ids))
  );
  const makeOfTicked = once(() =>
    attempt(async () => {
      const asked = rows.ticked.size;
      const { ids } = await send<{ ids: number[] }>('POST', '/api/dockets', { lines: [...rows.ticked] });
      if (ids.length < asked) toast.warning(`${asked - ids.length} of ${asked} are not taken yet and have no docket.`);
      await goOnWith(ids);
    })
  );
  /** Dockets of the pages written, of all where nothing is. */
  async function makeOfRange(line: ArtworkLine, count: number): Promise<void> {
    const written = (range[line.artworkId] ?? '').trim();
    const pages = readPages(written === '' ? '1-' : written, count);
    if (pages) await makeDockets([...pages].map((page) => ({ artworkId: line.artworkId, page })));
    else toast.error(`Write pages as 1-3, 7: the file has ${count}.`);
  }

  /** What a person should look at before it is printed. */
  function looks({ brief }: ArtworkLine): string {
    if (!brief) return '';
    const missing = brief.fontsNotEmbedded.length > 0 ? [`not in the file: ${brief.fontsNotEmbedded.join(', ')}`] : [];
    return [...brief.findings, ...(brief.more > 0 ? [`${brief.more} more`] : []), ...missing].join('; ');
  }
  /** The outlines of names that the shop's rules give to a tool. */
  function cutsOf(line: ArtworkLine): string {
    const tools = line.outlines.filter(({ name }) => isTool(ruleFor(name, data.settings.rules)?.role));
    const count = tools.reduce((sum, { outlines }) => sum + outlines, 0);
    return count === 0 ? 'none' : `${count}, ${tools.map(({ name }) => name).join(', ')}`;
  }
  const size = (mm: number) => sizeFigure(mm, data.settings.unit);
</script>

<div
  class="flex h-full flex-col"
  role="region"
  aria-label="Artwork"
  ondragover={(event) => {
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={(event) => {
    event.preventDefault();
    over = false;
    take(event.dataTransfer?.files);
  }}
>
  <div class="border-base-300 m-3 flex items-center gap-3 border-2 border-dashed p-3 {over ? 'border-primary bg-base-200' : ''}">
    <FileUp size={22} aria-hidden="true" />
    <span>Drop artwork here: PDF, AI with a PDF inside, EPS, SVG, or a picture of any usual kind.</span>
    <button class="btn btn-primary btn-sm" onclick={() => chooser.click()}>Choose files</button>
    <a class="link ml-auto text-sm" href="/artwork/in-tray"
      >In-tray{data.toSee > 0 ? `: ${counted(data.toSee, 'needs', 'need')} a person` : ''}</a
    >
    <input
      bind:this={chooser}
      class="hidden"
      type="file"
      {@attach early}
      multiple
      aria-label="Artwork files"
      accept=".pdf,.ai,.eps,.ps,.svg,.svgz,.png,.jpg,.jpeg,.tif,.tiff,.webp,.avif,.gif,.jp2,.j2k,.bmp"
      onchange={(event) => {
        take(event.currentTarget.files);
        event.currentTarget.value = '';
      }}
    />
  </div>
  {#each uploads.list as upload (upload)}
    <div class="mx-3 mb-2 flex items-center gap-3 text-sm">
      <span class="w-64 truncate">{upload.name}</span>
      {#if upload.error}
        <span class="text-error flex items-center gap-1" role="alert"
          ><OctagonX size={16} aria-hidden="true" />{upload.error}</span
        >
        <button class="btn btn-xs" onclick={() => uploads.forget(upload)}>Dismiss</button>
      {:else}
        <progress
          class="progress progress-primary w-64"
          value={upload.sent}
          max={upload.bytes || 1}
          aria-label="Sending {upload.name}"
        ></progress>
        <span>{fileSize(upload.sent)} of {fileSize(upload.bytes)}</span>
        {#if upload.waiting}<span class="text-warning" role="status">{upload.waiting}</span>{/if}
        <button class="btn btn-xs" onclick={upload.cancel}>Cancel</button>
      {/if}
    </div>
  {/each}

  <div class="min-h-0 grow">
    <ListTable
      name="artwork"
      first={data.list}
      shape={data.shape}
      {rows}
      {idOf}
      nameOf={(line) => `page ${line.page + 1} of ${line.name}`}
      {columns}
      canTick={({ state }) => state === 'ready'}
      rowHeight={76}
      facetTitles={TITLES}
      lookFor="Name of the file"
    >
      {#snippet cell(line, key)}
        {#if line.state !== 'ready'}
          {#if key === 'file'}
            <div class="truncate font-semibold" title={line.name}>
              {line.name}<span class="text-base-content/70 ml-2 text-xs font-normal">{fileSize(line.bytes)}</span>
            </div>
            {#if line.state === 'reading'}<span class="flex items-center gap-1 text-sm"
                ><span class="loading loading-spinner loading-xs"></span> Being read…</span
              >
            {:else if line.state === 'unread'}<span class="text-warning flex items-center gap-1 text-sm" title={line.reason}
                ><TriangleAlert size={16} class="shrink-0" aria-hidden="true" /><span class="line-clamp-2"
                  >Not read: {line.reason}</span
                ></span
              >
            {:else}<span class="text-error flex items-center gap-1 text-sm" title={line.reason}
                ><OctagonX size={16} class="shrink-0" aria-hidden="true" /><span class="line-clamp-3">Refused: {line.reason}</span
                ></span
              >{/if}
          {:else if key === 'go'}
            {#if line.state === 'unread'}<button
                class="btn btn-sm"
                onclick={() => attempt(() => send('POST', `/api/artworks/${line.artworkId}/read`))}>Read again</button
              >{/if}
            {@render remover(line)}
          {/if}
        {:else if key === 'picture'}
          <div class="flex h-16 w-24 items-center justify-center">
            <img
              class="max-h-16 max-w-24"
              alt="Page {line.page + 1} of {line.name}"
              {@attach atRest(`/api/artworks/${line.artworkId}/preview?page=${line.page}&width=240`)}
            />
          </div>
        {:else if key === 'file'}
          {@const pages = line.brief?.pages ?? 1}
          <div class="truncate font-semibold" title={line.name}>
            {line.name}{pages > 1 ? `, page ${line.page + 1} of ${pages}` : ''}
          </div>
          <div class="text-base-content/70 truncate text-xs" title={line.brief?.notes.join(' ')}>
            {[line.brief?.format, fileSize(line.bytes), ...(line.brief?.notes ?? [])].join(', ')}
          </div>
          {#if looks(line) !== ''}<div class="text-warning truncate text-xs" title={looks(line)}>Look: {looks(line)}</div>{/if}
          {#if line.page === 0 && pages > 1}
            <form
              class="flex items-center gap-1 text-xs"
              onsubmit={(event) => {
                event.preventDefault();
                void makeOfRange(line, pages);
              }}
            >
              <input
                class="input input-xs w-24"
                placeholder="all, or 1-3, 7"
                aria-label="Pages of {line.name}"
                bind:value={range[line.artworkId]}
              /><button class="btn btn-xs">Make dockets of these pages</button>
            </form>
          {/if}
        {:else if key === 'size' && line.widthMm !== null && line.heightMm !== null}
          <span class="text-base font-semibold whitespace-nowrap">{size(line.widthMm)} × {size(line.heightMm)}</span>
          <div class="text-base-content/70 text-xs">{line.bleedMm ? `${size(line.bleedMm)} bleed` : 'no bleed'}</div>
        {:else if key === 'colours'}<div class="line-clamp-2" title={line.colours}>{line.colours}</div>
        {:else if key === 'cuts'}<div class="line-clamp-2">{cutsOf(line)}</div>
        {:else if key === 'pictures'}<span class="whitespace-nowrap"
            >{line.images === 0 ? 'none' : `${line.images}, ${Math.round(line.leastPpi ?? 0)} ppi`}</span
          >
        {:else if key === 'go'}
          <div class="flex flex-wrap items-center justify-end gap-1">
            {#each line.newest as docket (docket)}<a class="link min-h-[24px] text-xs" href="/dockets/{docket}">Docket {docket}</a
              >{/each}
            <button
              class="btn btn-sm whitespace-nowrap"
              onclick={() => makeDockets([{ artworkId: line.artworkId, page: line.page }])}>Make a docket</button
            >
            {@render remover(line)}
          </div>
        {/if}
      {/snippet}
      {#snippet actions()}
        <button
          class="btn btn-primary btn-sm"
          disabled={rows.ticked.size === 0}
          title={rows.ticked.size === 0 ? 'Tick pages first' : ''}
          onclick={makeOfTicked}
          >{rows.ticked.size > 0 ? `Make ${counted(rows.ticked.size, 'docket')}` : 'Make dockets of the ticked pages'}</button
        >
      {/snippet}
      {#snippet empty()}
        No artwork yet. What customers send belongs here: each page with its size, colours and cut lines. Drop a file anywhere on
        this page to begin.
      {/snippet}
    </ListTable>
  </div>
</div>

{#snippet remover(line: ArtworkLine)}
  {#if line.page === 0 && line.ofFile === 0}
    <button
      class="btn btn-sm btn-ghost btn-square"
      aria-label="Delete {line.name}"
      onclick={() => attempt(() => send('DELETE', `/api/artworks/${line.artworkId}`))}><Trash size={16} /></button
    >
  {/if}
{/snippet}
