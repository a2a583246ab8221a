<script lang="ts">
  import FileUp from '@lucide/svelte/icons/file-up';
  import type { PageFacts } from '$core/artwork/facts';
  import { invalidate } from '$app/navigation';
  import { early } from '$lib/ui/common/early';
  import type { Artwork } from '$lib/server/artwork/artworks';
  import type { Docket } from '$lib/server/dockets/dockets';
  import { attempt, send } from '$lib/ui/common/client';
  import { uploads } from '$lib/ui/common/upload.svelte';
  import { forgetFields } from './tracing';
  import { lengthOf, sizeOf } from '$lib/ui/common/shop-unit';

  interface Props {
    docket: Docket;
    /** The facts of the page that was replaced, and how many lines each version outlines. */
    before: { facts: PageFacts; lines: number } | null;
    linesNow: number;
    onreplace: (action: (docket: Docket) => Promise<Docket>) => Promise<void>;
  }
  let { docket, before, linesNow, onreplace }: Props = $props();

  let chooser: HTMLInputElement;
  let waiting = $state('');
  let wrong = $state('');
  let difference = $state<{ share: number; picture: string } | null>(null);

  async function replace(file: File): Promise<void> {
    wrong = '';
    waiting = `${file.name} is being sent…`;
    const [artwork] = await uploads.take([file]);
    if (!artwork) {
      waiting = '';
      wrong = uploads.list.find((upload) => upload.name === file.name)?.error ?? 'The file was not sent.';
      return;
    }
    waiting = `${file.name} is being read…`;
    const read = await whenRead(artwork);
    waiting = '';
    if (read.state !== 'ready') {
      wrong = `${file.name} ${read.state === 'refused' ? 'was refused' : 'could not be read'}: ${read.reason ?? ''}`;
      return;
    }
    const page = Math.min(docket.page, (read.facts?.pages.length ?? 1) - 1);
    await attempt(async () => {
      await onreplace((now) =>
        send<Docket>('PUT', `/api/dockets/${now.id}/artwork`, { version: now.version, artworkId: read.id, page })
      );
      forgetFields();
      await invalidate(`zing:dockets/${docket.id}`);
    });
  }
  /** Reading takes as long as it takes; the list of artwork shows the same. */
  async function whenRead(artwork: Artwork): Promise<Artwork> {
    let read = artwork;
    while (read.state === 'reading') {
      await new Promise((resolve) => setTimeout(resolve, 150));
      read = await send<Artwork>('GET', `/api/artworks/${artwork.id}`);
    }
    return read;
  }

  $effect(() => {
    const { previous, id } = docket;
    difference = null;
    if (!previous) return;
    let gone = false;
    void send<{ share: number; picture: string }>('GET', `/api/dockets/${id}/artwork`)
      .then((answer) => {
        if (!gone) difference = answer;
      })
      .catch(() => undefined);
    return () => (gone = true);
  });

  const now = $derived(docket.artwork.facts);
  const size = (facts: PageFacts) => sizeOf(facts.widthMm, facts.heightMm);
  const spots = (facts: PageFacts) => facts.spots.map((spot) => spot.name).join(', ') || 'none';
  const rows = $derived(
    before
      ? [
          ['Size', size(before.facts), size(now)],
          ['Bleed', lengthOf(before.facts.bleedMm), lengthOf(now.bleedMm)],
          ['Spot colours', spots(before.facts), spots(now)],
          ['Outlines in them', String(before.lines), String(linesNow)],
          ['Pictures', String(before.facts.images.length), String(now.images.length)]
        ]
      : []
  );
</script>

<section class="border-base-300 border-t p-4 text-sm" aria-label="Artwork">
  <h2 class="panel-title">Artwork</h2>
  <p class="mt-1">
    {docket.artwork.name}{docket.artwork.pages.count > 1 ? `, page ${docket.page + 1} of ${docket.artwork.pages.count}` : ''}.
    <button class="btn btn-xs" disabled={waiting !== ''} onclick={() => chooser.click()}
      ><FileUp size={13} aria-hidden="true" />A newer version</button
    >
    <input
      bind:this={chooser}
      class="hidden"
      type="file"
      {@attach early}
      aria-label="Newer version of the artwork"
      onchange={(event) => {
        const [file] = event.currentTarget.files ?? [];
        if (file) void replace(file);
        event.currentTarget.value = '';
      }}
    />
  </p>
  {#if waiting}<p role="status"><span class="loading loading-spinner loading-xs"></span> {waiting}</p>{/if}
  {#if wrong}<p class="text-error" role="alert">{wrong}</p>{/if}
  {#if docket.previous && before}
    <div class="bg-base-200 mt-2 p-2" role="region" aria-label="What the new artwork changed">
      <p>It took the place of {docket.previous.name}; all choices stayed.</p>
      <table class="my-1 w-full text-left">
        <tbody>
          {#each rows as [what, was, is] (what)}
            <tr class:font-semibold={was !== is}
              ><th class="pr-2 font-normal">{what}</th><td>{was}</td><td>{was === is ? 'the same' : `→ ${is}`}</td></tr
            >
          {/each}
        </tbody>
      </table>
      {#if difference}
        <p>
          {difference.share < 0.00005
            ? 'The pictures are the same.'
            : `${(difference.share * 100).toFixed(1)} % of the picture differs, marked in red:`}
        </p>
        {#if difference.share >= 0.00005}<img
            class="mt-1 max-h-60 max-w-full border"
            src={difference.picture}
            alt="What differs, marked"
          />{/if}
      {/if}
      <button class="btn btn-xs mt-1" onclick={() => attempt(() => send('DELETE', `/api/dockets/${docket.id}/artwork`))}
        >Seen</button
      >
    </div>
  {/if}
</section>
