<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import Trash from '@lucide/svelte/icons/trash-2';
  import { untrack } from 'svelte';
  import { formatFigure } from '$core/units/length';
  import { attempt, docketPicture, send } from '$lib/ui/common/client';
  import EditTogether from '$lib/ui/docket/EditTogether.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  let words = $state('');
  // Dockets just made come ticked, to be edited together.
  let chosen = $state<number[]>(
    untrack(() =>
      (page.url.searchParams.get('tick') ?? '')
        .split(',')
        .map(Number)
        .filter((id) => data.dockets.some((docket) => docket.id === id))
    )
  );
  const ticked = $derived(data.dockets.filter((docket) => chosen.includes(docket.id)));
  const shown = $derived(
    data.dockets.filter((docket) =>
      words
        .split(/\s+/)
        .every((word) =>
          `${docket.id} ${docket.name} ${docket.customer} ${docket.note} ${docket.dueOn}`
            .toLowerCase()
            .includes(word.toLowerCase())
        )
    )
  );
  const media = (id: number | null) => data.conditions.find((condition) => condition.id === id)?.media ?? 'not chosen';
  const today = new Date().toISOString().slice(0, 10);

  async function layOut(): Promise<void> {
    await attempt(async () => {
      const { id } = await send<{ id: number }>('POST', '/api/runs', { docketIds: chosen });
      await goto(`/runs/${id}`);
    });
  }
</script>

<div class="flex h-full">
  <div class="min-w-0 grow overflow-auto">
    <div class="bg-base-100 sticky top-0 z-20 flex items-center gap-3 p-3">
      <input
        class="input input-sm w-72"
        placeholder="Name, customer, note or date"
        aria-label="Show dockets with"
        bind:value={words}
      />
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
          ><th class="w-8"
            ><input
              type="checkbox"
              class="checkbox checkbox-sm"
              aria-label="Tick all that are shown"
              checked={shown.length > 0 && shown.every((docket) => chosen.includes(docket.id))}
              indeterminate={chosen.length > 0 && !shown.every((docket) => chosen.includes(docket.id))}
              onchange={(event) => (chosen = event.currentTarget.checked ? shown.map((docket) => docket.id) : [])}
            /></th
          ><th class="w-24"></th><th>Docket</th><th>Customer</th><th>Due</th><th class="text-right">Copies</th><th
            class="text-right">Size, mm</th
          ><th>Media</th><th>Cut</th><th>Run</th><th></th></tr
        ></thead
      >
      <tbody>
        {#each shown as docket (docket.id)}
          <tr class="hover:bg-base-200" class:bg-base-200={chosen.includes(docket.id)}>
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
                <img class="max-h-12 max-w-20" src={docketPicture(docket, 240)} alt="" loading="lazy" />
              </div></td
            >
            <td
              ><a class="font-semibold hover:underline" href="/dockets/{docket.id}">{docket.name}</a>
              <div class="text-base-content/70 text-xs">
                Docket {docket.id}{docket.priority === 'normal' ? '' : `, ${docket.priority} priority`}{docket.note
                  ? `, ${docket.note.slice(0, 60)}`
                  : ''}
              </div></td
            >
            <td>{docket.customer}</td>
            <td class="whitespace-nowrap" class:text-error={docket.dueOn !== '' && docket.dueOn < today}
              >{docket.dueOn}{docket.dueOn !== '' && docket.dueOn < today ? ' late' : ''}</td
            >
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
            ><td colspan="11" class="p-6"
              >{data.dockets.length > 0
                ? 'No docket is called that.'
                : 'No dockets yet. A docket is one customer’s job: a page at a size, so many copies, on a media.'}
              <a class="link" href="/artwork">Take in artwork</a></td
            ></tr
          >
        {/each}
      </tbody>
    </table>
  </div>
  {#if ticked.length > 1}
    <EditTogether dockets={ticked} conditions={data.conditions} unit={data.settings.unit} />
  {/if}
</div>
