<script lang="ts">
  import { onMount } from 'svelte';
  import type { LibraryCard } from '$lib/server/media/library';
  import { attempt, send } from '$lib/ui/common/client';
  import { widthOf } from '$lib/ui/common/shop-unit';

  let cards = $state<LibraryCard[]>();
  let name = $state('');
  let failed = $state('');
  let text = $state('');

  async function look(): Promise<void> {
    failed = '';
    try {
      const answer = await send<{ library: string; cards: LibraryCard[] }>('GET', '/api/library');
      ({ cards, library: name } = answer);
    } catch (error) {
      failed = error instanceof Error ? error.message : String(error);
    }
  }
  onMount(() => void look());
  const shown = $derived(
    (cards ?? []).filter(({ card }) =>
      text
        .toLowerCase()
        .split(/\s+/)
        .every((word) => `${card.name} ${card.maker} ${card.family} ${card.surface} ${card.note}`.toLowerCase().includes(word))
    )
  );
  const take = async (card: LibraryCard) => {
    await attempt(
      () => send('POST', '/api/library', { id: card.id }),
      card.mine ? `${card.card.name} is brought up to date.` : `${card.card.name} is taken.`
    );
    await look();
  };
</script>

<div class="flex flex-wrap items-center gap-3 p-4">
  <a class="link text-sm" href="/media">All media</a>
  <h1 class="text-lg font-semibold">{name || 'Media library'}</h1>
  <input
    class="input input-sm w-56"
    type="search"
    placeholder="banner, Fathom …"
    aria-label="Find in the library"
    bind:value={text}
  />
</div>
{#if failed}
  <p class="px-4">
    {failed} <button class="btn btn-sm" onclick={look}>Look again</button>
  </p>
{:else if !cards}
  <p class="px-4">Asking the library…</p>
{:else}
  <table class="table-sm table">
    <thead
      ><tr
        ><th>Name</th><th>Maker</th><th>Family</th><th class="text-right">Width</th><th class="text-right">Thickness, mm</th><th
          >For</th
        ><th class="text-right">Edition</th><th>News</th><th></th></tr
      ></thead
    >
    <tbody>
      {#each shown as one (one.id)}
        {@const newer = one.mine && one.mine.version < one.version}
        <tr class="align-top">
          <td class="font-semibold">{one.card.name}</td>
          <td>{one.card.maker}</td>
          <td>{one.card.family}, {one.card.surface}</td>
          <td class="text-right">{widthOf(one.card.widthMm)}</td>
          <td class="text-right">{one.card.thicknessMm}</td>
          <td>{Object.keys(one.card.handling).join(', ')}</td>
          <td class="text-right whitespace-nowrap">{one.version}<span class="block text-xs">{one.published}</span></td>
          <td class="max-w-md"
            >{one.news}
            {#if newer}
              <span class="mt-1 block text-sm">It would change:</span>
              {#each one.changes as { field, mine, theirs } (field)}<span class="block text-sm">{field}: {mine} → {theirs}</span
                >{/each}
            {/if}</td
          >
          <td
            >{#if !one.mine}<button class="btn btn-sm" onclick={() => take(one)}>Take</button>{:else if newer}<button
                class="btn btn-sm btn-primary"
                onclick={() => take(one)}>Take edition {one.version}</button
              >{:else}<a class="link" href="/media/{one.mine.id}">here, up to date</a>{/if}</td
          >
        </tr>
      {:else}
        <tr><td colspan="9" class="p-6">No card of the library fits all of this.</td></tr>
      {/each}
    </tbody>
  </table>
{/if}
