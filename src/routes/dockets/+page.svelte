<script lang="ts">
  import { goto } from '$app/navigation';
  import Trash from '@lucide/svelte/icons/trash-2';
  import { formatFigure } from '$core/units/length';
  import { attempt, send } from '$lib/ui/common/client';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  let words = $state('');
  let chosen = $state<number[]>([]);
  const shown = $derived(
    data.dockets.filter((docket) =>
      words
        .split(/\s+/)
        .every((word) => `${docket.id} ${docket.name} ${docket.customer}`.toLowerCase().includes(word.toLowerCase()))
    )
  );
  const media = (id: number | null) => data.conditions.find((condition) => condition.id === id)?.media ?? 'not chosen';

  async function layOut(): Promise<void> {
    await attempt(async () => {
      const { id } = await send<{ id: number }>('POST', '/api/runs', { docketIds: chosen });
      await goto(`/runs/${id}`);
    });
  }
</script>

<div class="flex items-center gap-3 p-3">
  <input class="input input-sm w-72" placeholder="Name or customer" aria-label="Show dockets with" bind:value={words} />
  <span class="text-base-content/70">{shown.length} of {data.dockets.length}</span>
  <button
    class="btn btn-primary btn-sm ml-auto"
    disabled={chosen.length === 0}
    title={chosen.length === 0 ? 'Tick dockets first' : ''}
    onclick={layOut}
  >
    Lay out {chosen.length > 0 ? `${chosen.length} ${chosen.length === 1 ? 'docket' : 'dockets'}` : 'the ticked dockets'}
  </button>
</div>
<table class="table-sm table">
  <thead
    ><tr
      ><th class="w-8"></th><th class="w-24"></th><th>Docket</th><th>Customer</th><th class="text-right">Copies</th><th
        class="text-right">Size, mm</th
      ><th>Media</th><th>Cut</th><th>Run</th><th></th></tr
    ></thead
  >
  <tbody>
    {#each shown as docket (docket.id)}
      <tr class="hover:bg-base-200">
        <td
          ><input
            type="checkbox"
            class="checkbox checkbox-sm"
            aria-label="Tick {docket.name}"
            value={docket.id}
            bind:group={chosen}
          /></td
        >
        <td
          ><div class="flex h-12 w-20 items-center justify-center">
            <img
              class="max-h-12 max-w-20"
              src="/api/artworks/{docket.artworkId}/preview?page={docket.page}&width=240"
              alt=""
              loading="lazy"
            />
          </div></td
        >
        <td
          ><a class="font-semibold hover:underline" href="/dockets/{docket.id}">{docket.name}</a>
          <div class="text-base-content/70 text-xs">Docket {docket.id}</div></td
        >
        <td>{docket.customer}</td>
        <td class="text-right text-base font-semibold">{docket.choices.copies}</td>
        <td class="text-right whitespace-nowrap"
          >{formatFigure(docket.choices.widthMm, 1)} × {formatFigure(docket.choices.heightMm, 1)}</td
        >
        <td>{media(docket.choices.conditionId)}</td>
        <td>{docket.choices.cut ? 'yes' : 'no'}</td>
        <td
          >{#if docket.runId}<a class="link" href="/runs/{docket.runId}">Run {docket.runId}</a>{:else}not yet{/if}</td
        >
        <td class="text-right">
          <button
            class="btn btn-sm btn-ghost"
            aria-label="Delete {docket.name}"
            disabled={docket.runId !== null}
            title={docket.runId !== null ? `It is in run ${docket.runId}` : ''}
            onclick={() => attempt(() => send('DELETE', `/api/dockets/${docket.id}`))}><Trash size={16} /></button
          >
        </td>
      </tr>
    {:else}
      <tr
        ><td colspan="10" class="p-6"
          >{data.dockets.length > 0
            ? 'No docket is called that.'
            : 'No dockets yet. A docket is one customer’s job: a page at a size, so many copies, on a media.'}
          <a class="link" href="/artwork">Take in artwork</a></td
        ></tr
      >
    {/each}
  </tbody>
</table>
