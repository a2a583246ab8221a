<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import FileUp from '@lucide/svelte/icons/file-up';
  import OctagonX from '@lucide/svelte/icons/octagon-x';
  import Trash from '@lucide/svelte/icons/trash-2';
  import { onMount } from 'svelte';
  import { formatFigure } from '$core/units/length';
  import type { Artwork } from '$lib/server/artworks';
  import { attempt, fileSize, send } from '$lib/ui/common/client';
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

  async function makeDocket(artwork: Artwork, index: number): Promise<void> {
    await attempt(async () => {
      const { id } = await send<{ id: number }>('POST', '/api/dockets', { artworkId: artwork.id, page: index });
      await goto(`/dockets/${id}`);
    });
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
    <span>Drop artwork here: PDF, AI with a PDF inside, SVG, PNG, JPEG or TIFF.</span>
    <button class="btn btn-primary btn-sm" onclick={() => chooser.click()}>Choose files</button>
    <input
      bind:this={chooser}
      class="hidden"
      type="file"
      multiple
      aria-label="Artwork files"
      accept=".pdf,.ai,.svg,.png,.jpg,.jpeg,.tif,.tiff"
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
        <button class="btn btn-xs" onclick={upload.cancel}>Cancel</button>
      {/if}
    </div>
  {/each}

  <div class="min-h-0 grow overflow-auto">
    <table class="table-sm table">
      <thead class="bg-base-100 sticky top-0 z-10">
        <tr
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
                  {#each facts.notes as note (note)}<div class="text-base-content/70 text-xs">{note}</div>{/each}
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
                <td>{[...sheet.colourSpaces, ...sheet.spots].join(', ')}</td>
                <td
                  >{sheet.cutPaths.length === 0
                    ? 'none'
                    : `${sheet.cutPaths.length}, ${[...new Set(sheet.cutPaths.map((cut) => cut.spot))].join(', ')}`}</td
                >
                <td class="whitespace-nowrap"
                  >{sheet.images.length === 0
                    ? 'none'
                    : `${sheet.images.length}, ${Math.round(Math.min(...sheet.images.map((image) => image.ppi)))} ppi`}</td
                >
                <td class="text-right">
                  {#each used.slice(0, 2) as docket (docket.id)}<a class="link mr-2 text-xs" href="/dockets/{docket.id}"
                      >Docket {docket.id}</a
                    >{/each}
                  <button class="btn btn-sm" onclick={() => makeDocket(artwork, index)}>Make a docket</button>
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
              <td></td>
              <td class="font-semibold"
                >{artwork.name}
                <div class="text-base-content/70 text-xs font-normal">{fileSize(artwork.bytes)}</div></td
              >
              <td colspan="4">
                {#if artwork.state === 'reading'}<span class="loading loading-spinner loading-xs"></span> Being read…
                {:else}<span class="text-error flex items-center gap-1"
                    ><OctagonX size={16} aria-hidden="true" />Refused: {artwork.reason}</span
                  >{/if}
              </td>
              <td class="text-right">
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
            ><td colspan="7" class="p-6"
              >No artwork yet. What customers send belongs here: each page with its size, colours and cut lines. Drop a file
              anywhere on this page to begin.</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
  </div>
</div>
