<script lang="ts">
  import Lock from '@lucide/svelte/icons/lock';
  import { goto } from '$app/navigation';
  import { SvelteSet } from 'svelte/reactivity';
  import { formatMetres } from '$core/units/length';
  import { early } from '$lib/ui/common/early';
  import { attempt, send } from '$lib/ui/common/client';
  import ImportCards from '$lib/ui/media/ImportCards.svelte';
  import { screenColour } from '$lib/ui/colour/show';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  let text = $state('');
  let machine = $state('');
  const ticked = new SvelteSet<number>();
  let importing = $state<File>();

  const machines = $derived([...new Set(data.media.flatMap(({ card }) => Object.keys(card.handling)))].sort());
  const shown = $derived(
    data.media.filter(
      ({ card }) =>
        (machine === '' || machine in card.handling) &&
        text
          .toLowerCase()
          .split(/\s+/)
          .every((word) => `${card.name} ${card.maker} ${card.family} ${card.surface} ${card.note}`.toLowerCase().includes(word))
    )
  );
  const loaded = $derived(new Set(data.machines.flatMap((one) => (one.printer ? [one.printer.media.name] : []))));

  const add = () =>
    attempt(async () => {
      const made = await send<{ id: number }>('POST', '/api/media', {});
      await goto(`/media/${made.id}`);
    });
  function chooseFile(event: Event): void {
    const input = event.currentTarget as HTMLInputElement;
    importing = input.files?.[0];
    input.value = '';
  }
</script>

<div class="flex flex-wrap items-center gap-3 p-4">
  <h1 class="text-lg font-semibold">Media</h1>
  <input class="input input-sm w-56" type="search" placeholder="gloss, banner …" aria-label="Find media" bind:value={text} />
  <label class="text-sm"
    >for <select class="select select-sm inline-flex w-40" bind:value={machine} aria-label="For machine"
      ><option value="">any machine</option>{#each machines as one (one)}<option>{one}</option>{/each}</select
    ></label
  >
  <div class="grow"></div>
  <button class="btn btn-sm btn-primary" onclick={add}>New card</button>
  <a class="btn btn-sm" href="/media/library">Media library</a>
  <label class="btn btn-sm"
    >Import cards<input type="file" {@attach early} class="sr-only" accept=".zip,application/zip" onchange={chooseFile} /></label
  >
  {#if ticked.size > 0}
    <a class="btn btn-sm" href="/api/media/file?ids={[...ticked].join(',')}" download
      >Export {ticked.size} {ticked.size === 1 ? 'card' : 'cards'}</a
    >
  {:else}<button class="btn btn-sm" disabled title="Tick cards to export them">Export</button>{/if}
</div>
<table class="table">
  <thead
    ><tr
      ><th class="w-8"><span class="sr-only">Tick</span></th><th>Name</th><th>Maker</th><th>Family</th><th>Surface</th><th
        class="text-right">Width, mm</th
      ><th class="text-right">Thickness, mm</th><th class="text-right">Cost a m²</th><th class="text-right">In stock</th><th
        >White</th
      ><th>Machines</th><th class="text-right">Conditions</th></tr
    ></thead
  >
  <tbody>
    {#each shown as { id, card, locked, looks, conditions } (id)}
      <tr class="hover:bg-base-200">
        <td
          ><input
            type="checkbox"
            class="checkbox checkbox-sm"
            aria-label="Tick {card.name}"
            checked={ticked.has(id)}
            onchange={() => (ticked.has(id) ? ticked.delete(id) : ticked.add(id))}
          /></td
        >
        <td
          ><a class="link font-semibold" href="/media/{id}">{card.name}</a>{#if locked}<Lock
              size={13}
              class="ml-1 inline"
              aria-label="locked"
            />{/if}{loaded.has(card.name) ? ', loaded' : ''}</td
        >
        <td>{card.maker}</td>
        <td>{card.family}</td>
        <td>{card.surface}</td>
        <td class="text-right">{Math.round(card.widthMm)}</td>
        <td class="text-right">{card.thicknessMm}</td>
        <td class="text-right">{data.settings.currency}{card.costPerM2.toFixed(2)}</td>
        <td class="text-right"
          >{card.rolls.length > 0 ? formatMetres(card.rolls.reduce((sum, roll) => sum + roll.lengthMm, 0)) : 'none'}</td
        >
        <td
          >{#if card.white}<span class="inline-flex items-center gap-1.5"
              ><span class="border-base-content/30 h-4 w-4 border" style:background={screenColour(card.white)}></span>L* {card.white[0].toFixed(
                1
              )}</span
            >{:else}not measured{/if}</td
        >
        <td
          >{Object.keys(card.handling).join(', ') || 'none yet'}{#if looks.length > 0}<span class="text-warning ml-1"
              >{looks.length} to look at</span
            >{/if}</td
        >
        <td class="text-right">{conditions}</td>
      </tr>
    {:else}
      <tr
        ><td colspan="12" class="p-6"
          >{data.media.length === 0
            ? 'No media yet. A card says what a media is, what it costs, and how machines are to treat it. Make the first, take makers’ cards from the media library, or import a file.'
            : 'No card fits all of this.'}</td
        ></tr
      >
    {/each}
  </tbody>
</table>
{#if importing}<ImportCards file={importing} onclose={() => (importing = undefined)} />{/if}
