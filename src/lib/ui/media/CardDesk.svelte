<script lang="ts">
  import Lock from '@lucide/svelte/icons/lock';
  import { untrack } from 'svelte';
  import { toast } from 'svelte-sonner';
  import { goto } from '$app/navigation';
  import type { MediaCard } from '$core/media/card';
  import { TOOLS } from '$core/artwork/roles';
  import type { HandlingTable } from '$core/media/handling';
  import type { Condition } from '$lib/server/conditions/condition';
  import type { Media } from '$lib/server/media/cards';
  import { screenColour } from '$lib/ui/colour/show';
  import type { Removed } from '$lib/server/platform/removed';
  import { attempt, send } from '$lib/ui/common/client';
  import { follow } from '$lib/ui/common/follow.svelte';
  import SavesItself from '$lib/ui/common/SavesItself.svelte';
  import { once } from '$lib/ui/common/once';
  import { leftBehind } from '$lib/ui/common/removed';
  import { cardEdits } from './card-edits';
  import CardFields from './CardFields.svelte';
  import HandlingSection from './HandlingSection.svelte';
  import StockLists from './StockLists.svelte';

  let {
    media,
    tables,
    conditions,
    currency
  }: { media: Media; tables: HandlingTable[]; conditions: Condition[]; currency: string } = $props();

  const keptEdits = untrack(() => cardEdits(media));
  const { edits } = keptEdits;
  // News from elsewhere, as what a machine took off a roll or a white that was measured.
  follow(
    () => media,
    edits,
    (newest) => keptEdits.adopt(newest)
  );
  const card = $derived(edits.current);
  const change = (part: Partial<MediaCard>) => edits.change({ ...edits.current, ...part });

  const mine = $derived(conditions.filter((one) => one.mediaId === media.id));
  /** Where print modes for this card are found. */
  const finder = $derived.by(() => {
    const [machine] = Object.keys(card.handling);
    const params = { card: String(media.id), family: card.family, ...(machine !== undefined && { machine }) };
    return `/colour/modes?${new URLSearchParams(params).toString()}`;
  });

  const copy = once(() =>
    attempt(async () => {
      const made = await send<Media>('POST', `/api/media/${media.id}/copy`);
      await goto(`/media/${made.id}`);
    }, 'A copy that can be changed.')
  );
  const bringBack = () => attempt(() => send('POST', `/api/media/${media.id}/back`), `${card.name} is back.`);
  const remove = () =>
    attempt(async () => {
      await edits.flush();
      const was = card;
      const removed = await send<Removed>('DELETE', `/api/media/${media.id}`);
      if (removed.is === 'put away')
        return void toast.success(`${was.name} is put away.${leftBehind(removed)}`, {
          action: { label: 'Take back', onClick: () => void bringBack() }
        });
      const { library } = media;
      const makeAnew = () =>
        attempt(
          () => (library ? send('POST', '/api/library', { id: library.id }) : send('POST', '/api/media', was)),
          `${was.name} is back.`
        );
      toast.success(`${was.name} is deleted: nothing was printed or measured on it.`, {
        action: { label: 'Take back', onClick: () => void makeAnew() }
      });
      await goto('/media');
    });
</script>

{#snippet removal()}
  {#if !media.away}<button class="btn btn-xs" title="What was printed and measured on it stays known" onclick={remove}
      >Remove</button
    >{/if}
{/snippet}

<div class="grid max-w-[1500px] grid-cols-[22rem_1fr] gap-8 p-5">
  <section class="space-y-3 text-sm" aria-label="The media">
    <a class="link" href="/media">All media</a>
    <h1 class="text-xl leading-tight font-semibold">{card.name}</h1>
    {#if media.away}
      <p class="border-warning flex flex-wrap items-center gap-2 border-l-4 pl-3" role="status">
        This media was put away: nothing new is printed on it.
        <button class="btn btn-xs" onclick={bringBack}>Bring it back</button>
      </p>
    {/if}
    {#if media.locked}
      <p class="flex items-center gap-2">
        <Lock size={15} aria-hidden="true" />Locked: it came as it is{media.library ? `, edition ${media.library.version}` : ''}.
        <button class="btn btn-sm btn-primary" onclick={copy}>Copy to change</button>
        {@render removal()}
      </p>
      <p class="flex items-center gap-2">What is in stock can be written down. <SavesItself {edits} /></p>
    {:else}
      <p class="flex items-center gap-2">
        <SavesItself {edits} />
        <button class="btn btn-xs" onclick={copy}>Copy</button>
        {@render removal()}
      </p>
    {/if}
    <CardFields {card} locked={media.locked} {currency} onchange={change} />
    <StockLists {card} onchange={change} />
    <div class="flex items-center gap-2">
      <h2 class="panel-title">White</h2>
      {#if card.white}
        <span class="border-base-content/30 h-6 w-6 border" style:background={screenColour(card.white)}></span>
        L* {card.white[0].toFixed(1)}, a* {card.white[1].toFixed(1)}, b* {card.white[2].toFixed(1)}, measured
      {:else}not measured yet: the first chart does that{/if}
    </div>
    <div>
      <h2 class="panel-title">Knives</h2>
      {#each Object.entries(card.knives) as [cutter, knives] (cutter)}
        <p class="text-xs">
          <span class="font-semibold">{cutter}</span>: {TOOLS.map((tool) => {
            const { blade, force, speed, passes } = knives[tool];
            return `${tool} by ${blade}, ${force} g, ${speed} cm/s${passes > 1 ? `, ${passes} times` : ''}`;
          }).join('; ')}.
        </p>
      {:else}
        <p class="text-base-content/70 text-xs">As usual. What is set on a cut of this media is kept here, by cutter.</p>
      {/each}
    </div>
    <div>
      <h2 class="panel-title">Conditions</h2>
      {#each mine as one (one.id)}<p>
          <a class="link inline-block py-1" href="/colour/{one.id}">{one.machine}, {one.mode.name}</a>
        </p>{:else}<p>
          {media.away && media.conditions > 0
            ? `${media.conditions === 1 ? 'One comes' : `${media.conditions} come`} back with it.`
            : 'None yet.'}
        </p>{/each}
      {#if !media.away}<a class="btn btn-sm mt-1" href={finder}>Find a print mode for it</a>{/if}
    </div>
  </section>

  <HandlingSection {card} locked={media.locked} {tables} onchange={(handling) => change({ handling })} />
</div>
