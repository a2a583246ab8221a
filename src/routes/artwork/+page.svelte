<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import FileUp from '@lucide/svelte/icons/file-up';
  import OctagonX from '@lucide/svelte/icons/octagon-x';
  import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
  import Trash from '@lucide/svelte/icons/trash-2';
  import { onMount } from 'svelte';
  import { toast } from 'svelte-sonner';
  import type { PageFacts } from '$core/artwork/facts';
  import { isTool, ruleFor } from '$core/artwork/roles';
  import { formatFigure } from '$core/units/length';
  import { early } from '$lib/ui/common/early';
  import type { Artwork } from '$lib/server/artwork/artworks';
  import { briefly } from '$core/checks/intake';
  import { attempt, fileSize, send } from '$lib/ui/common/client';
  import { readPages } from '$lib/ui/common/page-range';
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

  /** Ticked pages, as artwork/page. */
  let ticked = $state<string[]>([]);
  let range = $state<Record<number, string>>({});
  const keyOf = (artwork: Artwork, index: number) => `${artwork.id}/${index}`;
  const ready = $derived(data.artworks.filter((artwork) => artwork.state === 'ready' && artwork.facts));
  const everyPage = $derived(ready.flatMap((artwork) => (artwork.facts?.pages ?? []).map((_, index) => keyOf(artwork, index))));

  async function makeDockets(keys: readonly string[]): Promise<void> {
    await attempt(async () => {
      const pages = keys.map((key) => {
        const [artworkId, page] = key.split('/').map(Number);
        return { artworkId, page };
      });
      const { ids } = await send<{ ids: number[] }>('POST', '/api/dockets', { pages });
      ticked = [];
      // One is gone on with at once; many are edited together.
      await goto(ids.length === 1 ? `/dockets/${ids[0]}` : `/dockets?tick=${ids.join(',')}`);
    });
  }
  /** Ticks the pages written, all where nothing is. */
  function tickRange(artwork: Artwork): void {
    const count = artwork.facts?.pages.length ?? 0;
    const text = (range[artwork.id] ?? '').trim();
    const pages = readPages(text === '' ? '1-' : text, count);
    if (!pages) {
      toast.error(`Write pages as 1-3, 7: the file has ${count}.`);
      return;
    }
    const of = new Set(pages.map((index) => keyOf(artwork, index)));
    ticked = [...ticked.filter((key) => !key.startsWith(`${artwork.id}/`)), ...of];
  }

  /** The outlines of names that the shop's rules give to a tool. */
  function cutsOf(sheet: PageFacts): string {
    const tools = [...sheet.spots, ...sheet.layers].filter(({ name }) => isTool(ruleFor(name, data.settings.rules)?.role));
    const count = tools.reduce((sum, { outlines }) => sum + outlines, 0);
    return count === 0 ? 'none' : `${count}, ${tools.map(({ name }) => name).join(', ')}`;
  }
  const size = (mm: number) => formatFigure(mm, 1);
  const docketsOf = (artwork: Artwork) => data.dockets.filter((docket) => docket.artworkId === artwork.id);
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
    <button
      class="btn btn-sm ml-auto"
      disabled={ticked.length === 0}
      title={ticked.length === 0 ? 'Tick pages first' : ''}
      onclick={() => makeDockets(ticked)}
      >{ticked.length > 0
        ? `Make ${ticked.length} ${ticked.length === 1 ? 'docket' : 'dockets'}`
        : 'Make dockets of the ticked pages'}</button
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

  <div class="min-h-0 grow overflow-auto">
    <table class="table-sm table">
      <thead class="bg-base-100 sticky top-0 z-10">
        <tr
          ><th class="w-8"
            ><input
              type="checkbox"
              class="checkbox checkbox-sm"
              aria-label="Tick all pages"
              checked={everyPage.length > 0 && ticked.length === everyPage.length}
              indeterminate={ticked.length > 0 && ticked.length < everyPage.length}
              onchange={(event) => (ticked = event.currentTarget.checked ? everyPage : [])}
            /></th
          ><th class="w-28">Page</th><th>File</th><th>Size, mm</th><th>Colours</th><th>Cut lines</th><th>Pictures</th><th
            class="w-52"
          ></th></tr
        >
      </thead>
      <tbody>
        {#each data.artworks as artwork (artwork.id)}
          {#if artwork.state === 'ready' && artwork.facts}
            {@const { facts } = artwork}
            {#each facts.pages as sheet, index (index)}
              {@const used = docketsOf(artwork).filter((docket) => docket.page === index)}
              <tr class="hover:bg-base-200" id={index === 0 ? `artwork-${artwork.id}` : undefined}>
                <td
                  ><input
                    type="checkbox"
                    class="checkbox checkbox-sm"
                    aria-label="Tick page {index + 1} of {artwork.name}"
                    value={keyOf(artwork, index)}
                    bind:group={ticked}
                  /></td
                >
                <td
                  ><div class="flex h-16 w-24 items-center justify-center">
                    <img
                      class="max-h-16 max-w-24"
                      src="/api/artworks/{artwork.id}/preview?page={index}&width=240"
                      alt="Page {index + 1} of {artwork.name}"
                      loading="lazy"
                    />
                  </div></td
                >
                <td class="max-w-72">
                  <div class="font-semibold">
                    {artwork.name}{facts.pages.length > 1 ? `, page ${index + 1} of ${facts.pages.length}` : ''}
                  </div>
                  <div class="text-base-content/70 text-xs">{facts.format}, {fileSize(artwork.bytes)}</div>
                  {#if index === 0 && facts.pages.length > 1}
                    <form
                      class="mt-1 flex items-center gap-1 text-xs"
                      onsubmit={(event) => {
                        event.preventDefault();
                        tickRange(artwork);
                      }}
                    >
                      <input
                        class="input input-xs w-24"
                        placeholder="all, or 1-3, 7"
                        aria-label="Pages of {artwork.name} to tick"
                        bind:value={range[artwork.id]}
                      /><button class="btn btn-xs">Tick pages</button>
                    </form>
                  {/if}
                  {#each facts.notes as note (note)}<div class="text-base-content/70 text-xs">{note}</div>{/each}
                  {#if facts.findings.length > 0}<div class="text-warning text-xs">
                      Look: {facts.findings.slice(0, 3).map(briefly).join('; ')}{facts.findings.length > 3
                        ? `; and ${facts.findings.length - 3} more`
                        : ''}
                    </div>{/if}
                  {#if facts.fontsNotEmbedded.length > 0}<div class="text-warning text-xs">
                      Look: not in the file: {facts.fontsNotEmbedded.join(', ')}
                    </div>{/if}
                </td>
                <td class="whitespace-nowrap">
                  <span class="text-base font-semibold">{size(sheet.widthMm)} × {size(sheet.heightMm)}</span>
                  <div class="text-base-content/70 text-xs">
                    {sheet.bleedMm > 0 ? `${size(sheet.bleedMm)} bleed` : 'no bleed'}
                  </div>
                </td>
                <td>{[...sheet.colourSpaces, ...sheet.spots.map((spot) => spot.name)].join(', ')}</td>
                <td>{cutsOf(sheet)}</td>
                <td class="whitespace-nowrap"
                  >{sheet.images.length === 0
                    ? 'none'
                    : `${sheet.images.length}, ${Math.round(Math.min(...sheet.images.map((image) => image.ppi)))} ppi`}</td
                >
                <td class="text-right">
                  {#each used.slice(0, 2) as docket (docket.id)}<a
                      class="link mr-2 inline-block min-h-[24px] text-xs"
                      href="/dockets/{docket.id}">Docket {docket.id}</a
                    >{/each}
                  <button class="btn btn-sm" onclick={() => makeDockets([keyOf(artwork, index)])}>Make a docket</button>
                  {#if index === 0 && docketsOf(artwork).length === 0}
                    <button
                      class="btn btn-sm btn-ghost btn-square"
                      aria-label="Delete {artwork.name}"
                      onclick={() => attempt(() => send('DELETE', `/api/artworks/${artwork.id}`))}><Trash size={16} /></button
                    >
                  {/if}
                </td>
              </tr>
            {/each}
          {:else}
            <tr id="artwork-{artwork.id}">
              <td colspan="2"></td>
              <td class="font-semibold"
                >{artwork.name}
                <div class="text-base-content/70 text-xs font-normal">{fileSize(artwork.bytes)}</div></td
              >
              <td colspan="4">
                {#if artwork.state === 'reading'}<span class="loading loading-spinner loading-xs"></span> Being read…
                {:else if artwork.state === 'unread'}<span class="text-warning flex items-center gap-1"
                    ><TriangleAlert size={16} class="shrink-0" aria-hidden="true" />Not read: {artwork.reason}</span
                  >
                {:else}<span class="text-error flex items-center gap-1"
                    ><OctagonX size={16} class="shrink-0" aria-hidden="true" />Refused: {artwork.reason}</span
                  >{/if}
              </td>
              <td class="text-right whitespace-nowrap">
                {#if artwork.state === 'unread'}<button
                    class="btn btn-sm"
                    onclick={() => attempt(() => send('POST', `/api/artworks/${artwork.id}/read`))}>Read again</button
                  >{/if}
                <button
                  class="btn btn-sm btn-ghost"
                  aria-label="Delete {artwork.name}"
                  onclick={() => attempt(() => send('DELETE', `/api/artworks/${artwork.id}`))}><Trash size={16} /></button
                >
              </td>
            </tr>
          {/if}
        {:else}
          <tr
            ><td colspan="8" class="p-6"
              >No artwork yet. What customers send belongs here: each page with its size, colours and cut lines. Drop a file
              anywhere on this page to begin.</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
  </div>
</div>
