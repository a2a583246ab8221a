<script lang="ts">
  import { goto } from '$app/navigation';
  import ArrowLeft from '@lucide/svelte/icons/arrow-left';
  import CircleCheck from '@lucide/svelte/icons/circle-check';
  import Clock from '@lucide/svelte/icons/clock';
  import Hand from '@lucide/svelte/icons/hand';
  import OctagonX from '@lucide/svelte/icons/octagon-x';
  import Undo from '@lucide/svelte/icons/undo-2';
  import type { Arrival, ArrivalState } from '$lib/arrivals';
  import { attempt, fileSize, send } from '$lib/ui/common/client';
  import FolderList from '$lib/ui/recipes/FolderList.svelte';
  import PrinterList from '$lib/ui/recipes/PrinterList.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  const STATE_WORDS: Record<ArrivalState, string> = {
    reading: 'being read',
    made: 'docket made',
    'laid out': 'laid out',
    done: 'done',
    waiting: 'waits for a person',
    refused: 'refused',
    undone: 'taken back'
  };
  const sum = (states: readonly ArrivalState[]) => states.reduce((all, state) => all + (data.counts[state] ?? 0), 0);
  const needsPerson = $derived(sum(['waiting', 'refused']));
  const everything = $derived(sum(Object.keys(STATE_WORDS) as ArrivalState[]));
  const FILTERS = $derived([
    ['person', 'Needs a person', needsPerson],
    ['under way', 'Under way', sum(['reading', 'made', 'laid out'])],
    ['done', 'Done', sum(['done'])],
    ['all', 'All', everything]
  ] as const);
  const look = (change: Record<string, string>) =>
    goto(
      `?${new URLSearchParams({ show: data.show, ...(data.words && { q: data.words }), ...(data.from && { from: data.from }), ...change })}`,
      {
        keepFocus: true,
        noScroll: true
      }
    );

  const came = (at: number) =>
    new Date(at).toLocaleString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });
  function cameFrom({ source, folder, printer }: Arrival): string {
    if (source === 'program') return 'sent by a program';
    if (source === 'printer') return printer === null ? 'printed on a printer that is gone' : `printed on ${printer}`;
    return folder ? `from ${folder.path}` : 'from a folder that is watched no more';
  }
  let busy = $state<number | null>(null);
  async function act(arrival: Arrival, body: object, said: string): Promise<void> {
    if (busy !== null) return;
    busy = arrival.id;
    await attempt(() => send('POST', `/api/arrivals/${arrival.id}`, body), said);
    busy = null;
  }
  /** By arrival, the recipe that it would be made by again. */
  const chosen = $state<Record<number, string>>({});
  const again = (arrival: Arrival) => {
    const by = chosen[arrival.id] ?? 'same';
    const recipeId = by === 'same' ? undefined : by === 'none' ? null : Number(by);
    return act(arrival, { act: 'again', recipeId }, `${arrival.name} is made again.`);
  };
  const canBeMade = ({ artworkId, state }: Arrival) => artworkId !== null && ['waiting', 'done', 'undone'].includes(state);
</script>

<svelte:head><title>In-tray</title></svelte:head>
<div class="flex h-full max-lg:flex-col max-lg:overflow-auto">
  <section class="flex min-w-0 grow flex-col p-4" aria-label="In-tray">
    <header class="mb-3 flex flex-wrap items-center gap-2">
      <a class="btn btn-ghost btn-sm btn-square" href="/artwork" aria-label="All artwork"><ArrowLeft size={18} /></a>
      <h1 class="text-lg font-semibold">In-tray</h1>
      <div class="join" role="group" aria-label="What is shown">
        {#each FILTERS as [key, label, count] (key)}
          <button
            class="btn btn-sm join-item"
            class:btn-active={data.show === key}
            aria-pressed={data.show === key}
            onclick={() => look({ show: key })}>{label} {count}</button
          >
        {/each}
      </div>
      <div class="grow"></div>
      <select
        class="select select-sm w-40"
        aria-label="Where it came from"
        value={data.from}
        onchange={(event) => look({ from: event.currentTarget.value })}
      >
        <option value="">from anywhere</option>
        {#each data.folders as { id, folder } (id)}<option value="folder-{id}">from {folder.path}</option>{/each}
        {#each data.printers as { id, printer } (id)}<option value="printer-{id}">printed on {printer.name}</option>{/each}
        <option value="program">sent by programs</option>
      </select>
      <a class="btn btn-sm" href="/shop/recipes">Recipes</a>
      <input
        class="input input-sm w-56"
        type="search"
        maxlength="200"
        placeholder="File or customer"
        aria-label="Find in the in-tray"
        value={data.words}
        onchange={(event) => look({ q: event.currentTarget.value })}
      />
    </header>
    {#if data.arrivals.length === 0}
      <p class="max-w-prose">
        {everything === 0
          ? 'Nothing has come by itself yet. Watch a folder, or make a printer for other programs: what is put or printed there becomes dockets, and is listed here with what was made of it.'
          : 'Nothing here is so.'}
      </p>
    {:else}
      <div class="min-h-0 grow overflow-auto">
        <table class="table-sm table table-fixed" aria-label="What came">
          <thead class="bg-base-100 sticky top-0"
            ><tr
              ><th class="w-24">Came</th><th class="w-28 max-[1000px]:hidden"><span class="sr-only">Picture</span></th><th
                class="w-[26%]">File</th
              ><th>What was made of it, and how it is</th><th class="w-60"><span class="sr-only">What can be done</span></th></tr
            ></thead
          >
          <tbody>
            {#each data.arrivals as arrival (arrival.id)}
              <tr class="align-top">
                <td>{came(arrival.cameAt)}</td>
                <td class="max-[1000px]:hidden"
                  >{#if arrival.artworkId !== null && arrival.state !== 'refused' && arrival.state !== 'reading'}<img
                      class="h-14 w-24 object-contain"
                      src="/api/artworks/{arrival.artworkId}/preview?width=240"
                      alt=""
                      loading="lazy"
                    />{/if}</td
                >
                <td
                  ><span class="block truncate font-semibold" title={arrival.place}>{arrival.name}</span><span
                    class="text-base-content/70 block truncate text-xs"
                    >{[
                      arrival.customer,
                      arrival.table !== null && `with ${arrival.table}`,
                      cameFrom(arrival),
                      arrival.bytes > 0 && fileSize(arrival.bytes)
                    ]
                      .filter(Boolean)
                      .join(' · ')}</span
                  ></td
                >
                <td
                  ><span
                    class="flex items-center gap-1 {arrival.state === 'waiting'
                      ? 'text-warning'
                      : arrival.state === 'refused'
                        ? 'text-error'
                        : ''}"
                  >
                    {#if arrival.state === 'waiting'}<Hand
                        size={16}
                        aria-hidden="true"
                      />{:else if arrival.state === 'refused'}<OctagonX
                        size={16}
                        aria-hidden="true"
                      />{:else if arrival.state === 'done'}<CircleCheck
                        size={16}
                        aria-hidden="true"
                      />{:else if arrival.state === 'undone'}<Undo size={16} aria-hidden="true" />{:else}<Clock
                        size={16}
                        aria-hidden="true"
                      />{/if}{STATE_WORDS[arrival.state]}</span
                  >{#if arrival.reason}<span class="block text-sm leading-5">{arrival.reason}</span
                    >{/if}{#each arrival.dockets as { id, name, runId } (id)}<span class="block"
                      ><a class="link" href="/dockets/{id}">{name}</a>{#if runId !== null}, <a class="link" href="/runs/{runId}"
                          >run {runId}</a
                        >{/if}</span
                    >{/each}{#if arrival.recipe}<span class="text-base-content/70 block text-xs">by {arrival.recipe.name}</span
                    >{/if}</td
                >
                <td
                  ><div class="flex flex-wrap justify-end gap-1">
                    {#if canBeMade(arrival)}<select
                        class="select select-xs w-full truncate pe-7!"
                        aria-label="Recipe for {arrival.name}"
                        value={chosen[arrival.id] ?? 'same'}
                        onchange={(event) => (chosen[arrival.id] = event.currentTarget.value)}
                      >
                        <option value="same">{arrival.recipe ? `by ${arrival.recipe.name}` : 'as by hand'}</option>
                        {#if arrival.recipe}<option value="none">as by hand</option>{/if}
                        {#each data.recipes.filter(({ id }) => id !== arrival.recipe?.id) as { id, name } (id)}<option value={id}
                            >by {name}</option
                          >{/each}
                      </select>
                      <button class="btn btn-xs" disabled={busy !== null} onclick={() => again(arrival)}>Make it again</button
                      >{/if}
                    {#if arrival.dockets.length > 0}<button
                        class="btn btn-xs"
                        disabled={busy !== null}
                        onclick={() => act(arrival, { act: 'undo' }, `What was made of ${arrival.name} is deleted.`)}
                        >Take it back</button
                      >{/if}
                    {#if arrival.state === 'waiting' || arrival.state === 'refused'}<button
                        class="btn btn-xs"
                        disabled={busy !== null}
                        onclick={() => act(arrival, { act: 'settle' }, `${arrival.name} is seen to.`)}>Seen to</button
                      >{/if}
                  </div></td
                >
              </tr>
            {/each}
          </tbody>
        </table>
        <p class="flex justify-center gap-2 p-3">
          {#if data.isOlder}<button class="btn btn-sm" onclick={() => look({})}>The newest</button>{/if}
          {#if data.arrivals.length === data.page}<button
              class="btn btn-sm"
              onclick={() => look({ before: String(data.arrivals.at(-1)!.id) })}>Older ones</button
            >{/if}
        </p>
      </div>
    {/if}
  </section>
  <aside
    class="border-base-300 bg-base-100 w-96 shrink-0 space-y-6 overflow-auto border-l p-4 max-lg:w-full max-lg:overflow-visible max-lg:border-t max-lg:border-l-0"
    aria-label="Where it comes from"
  >
    <FolderList folders={data.folders} states={data.folderStates} recipes={data.recipes} />
    <PrinterList
      printers={data.printers}
      states={data.printerStates}
      recipes={data.recipes}
      conditions={data.conditions}
      freePort={data.freePort}
      reachedAt={data.reachedAt}
    />
  </aside>
</div>
