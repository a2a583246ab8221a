<script lang="ts">
  import { onMount } from 'svelte';
  import { showLab } from '$core/colour/named-colour';
  import type { ListPage } from '$lib/listing';
  import type { ColourLine } from '$lib/server/conditions/colour-list';
  import type { ShopColour } from '$lib/named-colours';
  import { attempt, send } from '$lib/ui/common/client';
  import Swatches from './Swatches.svelte';

  /** Finds one of the shop's named colours by words. */
  let { label, onpick }: { label: string; onpick: (colour: ShopColour) => void } = $props();

  const MOST = 8;
  let words = $state('');
  let found = $state.raw<ListPage<ColourLine> | null>(null);
  let asking = 0;

  function look(): void {
    const mine = ++asking;
    void attempt(async () => {
      const page = await send<ListPage<ColourLine>>('GET', `/api/lists/colours?q=${encodeURIComponent(words)}`);
      if (mine === asking) found = page;
    });
  }
  onMount(look);
</script>

<div class="border-base-300 space-y-1 border-l-2 pl-2">
  <!-- svelte-ignore a11y_autofocus -->
  <input
    class="input input-sm w-full"
    type="search"
    aria-label={label}
    placeholder="Name or collection"
    autofocus
    bind:value={words}
    oninput={look}
  />
  {#if found}
    <ul aria-label="Named colours found">
      {#each found.rows.slice(0, MOST) as { id, name, lab, collection } (id)}
        <li>
          <button
            class="hover:bg-base-200 flex w-full items-center gap-2 px-1 text-left"
            onclick={() => onpick({ id, name, lab })}
            ><Swatches asked={lab} /><span class="truncate font-semibold">{name}</span><span
              class="text-base-content/70 ml-auto text-xs">{collection || showLab(lab)}</span
            ></button
          >
        </li>
      {:else}
        <li class="text-sm">
          {found.all === 0 ? 'The shop has no named colours yet.' : 'None of that name.'}
          <a class="link" href="/colour/named">Named colours</a>
        </li>
      {/each}
    </ul>
    {#if found.count > MOST}<p class="text-base-content/70 text-xs">and {found.count - MOST} more: write more of the name</p>{/if}
  {/if}
</div>
