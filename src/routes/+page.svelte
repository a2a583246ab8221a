<script lang="ts">
  import { goto } from '$app/navigation';
  import { formatMetres } from '$core/units/length';
  import type { Docket } from '$lib/server/dockets/dockets';
  import { attempt, docketPicture, send } from '$lib/ui/common/client';
  import type { Lane } from '$lib/server/production/lanes';
  import type { Machine } from '$lib/server/machines/machines';
  import LaneOfRuns from '$lib/ui/floor/Lane.svelte';
  import LaneSettings from '$lib/ui/floor/LaneSettings.svelte';
  import LoadMedia from '$lib/ui/floor/LoadMedia.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  const printers = $derived(data.machines.filter((machine) => machine.kind === 'printer'));
  const waiting = $derived(data.dockets.filter((docket) => docket.runId === null));
  /** The loaded lane first, then those where something waits. */
  const lanes = (machineId: number) =>
    data.lanes
      .filter((lane) => lane.machineId === machineId)
      .sort((p, q) => Number(q.loaded) - Number(p.loaded) || waits(q.id) - waits(p.id) || p.id - q.id);
  const waits = (laneId: number) => data.runs.filter((run) => run.laneId === laneId && run.state !== 'printed').length;
  const releasable = $derived(
    data.runs.filter(
      (run) => (run.state === 'laying out' || run.state === 'ripped') && run.releasedAt === null && run.laid.length > 0
    )
  );
  let loading: LoadMedia;
  let settings: LaneSettings;
  const left = (machine: Machine): string => {
    if (!machine.printer) return '';
    const { lengthMm, sheetMm, sheets } = machine.printer.media;
    return sheetMm === null ? `${formatMetres(lengthMm)} left` : `${sheets} sheets left`;
  };
  let dragged = $state<Docket | null>(null);

  async function layOut(docket: Docket): Promise<void> {
    await attempt(async () => {
      const { id } = await send<{ id: number }>('POST', '/api/runs', { docketIds: [docket.id] });
      await goto(`/runs/${id}`);
    });
  }

  async function releaseAll(): Promise<void> {
    await attempt(async () => {
      const { released, refused } = await send<{ released: number; refused: string[] }>('POST', '/api/release');
      if (refused.length > 0) throw new Error(`${released} released. ${refused.join(' ')}`);
    }, 'All that waited is released. Runs print as soon as their media is loaded.');
  }
  async function sendAll(): Promise<void> {
    // The tray has the newest on top; who came first goes first.
    const ready = waiting
      .filter((docket) => docket.choices.conditionId !== null)
      .map((docket) => docket.id)
      .reverse();
    await attempt(() => send('POST', '/api/runs', { docketIds: ready }), `${ready.length} dockets went to their lanes.`);
  }

  async function drop(lane: Lane): Promise<void> {
    const docket = dragged;
    dragged = null;
    if (!docket) return;
    await attempt(async () => {
      if (docket.choices.conditionId === null || docket.choices.conditionId !== lane.condition.id)
        await send('POST', `/api/dockets/${docket.id}/lanes`, { laneId: lane.id });
      else await send('POST', '/api/runs', { docketIds: [docket.id], laneId: lane.id });
    }, `${docket.name} is laid out.`);
  }
</script>

<div class="flex h-full">
  <section class="min-w-0 grow overflow-auto p-4" aria-label="Machines and lanes">
    {#each printers as machine (machine.id)}
      <h1 class="mb-1 flex items-baseline gap-3 text-lg font-semibold">
        {machine.name}
        <span class="text-base-content/70 text-sm font-normal">
          {machine.printer ? `${machine.printer.media.name} loaded, ${left(machine)}` : 'not reachable'}
        </span>
        {#if machine.printer}<button
            class="btn btn-xs"
            onclick={() => loading.open(machine)}
            aria-label="Change the media on {machine.name}">Change the media</button
          >{/if}
      </h1>
      <!-- Lanes that are empty and not loaded stand side by side, a line each. -->
      <div class="mb-3 flex flex-wrap items-center gap-x-8 gap-y-1">
        {#each lanes(machine.id) as lane (lane.id)}
          <LaneOfRuns
            {lane}
            left={left(machine)}
            runs={data.runs.filter((run) => run.laneId === lane.id)}
            prints={data.prints}
            dropping={dragged !== null}
            ondrop={() => drop(lane)}
            onsettings={() => settings.open(lane)}
            onload={() => loading.open(machine, lane.media)}
          />
        {:else}
          <p class="mb-4 text-sm">
            No media is used with {machine.name} yet. <a class="link" href="/media">Give one a print mode</a>; it gets a lane
            here.
          </p>
        {/each}
      </div>
    {:else}
      <h1 class="text-lg font-semibold">No printer yet</h1>
      <p class="mt-1 max-w-prose">
        The Floor shows every machine with its roll, to scale, and what is printed, printing and waiting on it.
      </p>
      <a class="btn btn-primary btn-sm mt-3" href="/shop">Add a machine</a>
    {/each}
  </section>

  <aside class="border-base-300 bg-base-200 flex w-64 shrink-0 flex-col border-l" aria-label="Dockets not laid out yet">
    <h2 class="panel-title p-3 pb-1">Tray: not laid out yet</h2>
    <p class="text-base-content/70 px-3 pb-2 text-xs">Drag one to a roll, or press Lay out: it goes to the lane of its media.</p>
    <div class="flex flex-wrap gap-2 px-3 pb-2">
      <button
        class="btn btn-sm"
        disabled={!waiting.some((docket) => docket.choices.conditionId !== null)}
        title="Each docket goes to the lane of its media"
        onclick={sendAll}>Send all to their lanes</button
      >
      <button
        class="btn btn-sm {releasable.length > 0 ? 'btn-primary' : ''}"
        disabled={releasable.length === 0}
        onclick={releaseAll}>Release all</button
      >
    </div>
    <ul class="min-h-0 grow overflow-auto">
      {#each waiting as docket (docket.id)}
        <li
          class="border-base-300 hover:bg-base-300 flex cursor-grab gap-2 border-b p-2"
          draggable="true"
          ondragstart={(event) => {
            dragged = docket;
            event.dataTransfer?.setData('text/plain', docket.name);
          }}
          ondragend={() => (dragged = null)}
        >
          <div class="flex h-14 w-16 shrink-0 items-center justify-center">
            <img class="max-h-14 max-w-16" src={docketPicture(docket, 240)} alt="" draggable="false" />
          </div>
          <div class="min-w-0 grow text-xs">
            <a class="block truncate text-sm font-semibold hover:underline" href="/dockets/{docket.id}">{docket.name}</a>
            <div class="truncate">{docket.customer}</div>
            <div class="flex items-center justify-between">
              <span>{docket.choices.copies} × {Math.round(docket.choices.widthMm)} × {Math.round(docket.choices.heightMm)}</span>
              <button class="btn btn-xs" onclick={() => layOut(docket)}>Lay out</button>
            </div>
          </div>
        </li>
      {:else}
        <li class="p-3">Nothing waits. <a class="link" href="/artwork">Take in artwork</a> to make dockets.</li>
      {/each}
    </ul>
  </aside>
</div>
<LoadMedia bind:this={loading} media={data.media} />
<LaneSettings bind:this={settings} conditions={data.conditions} unit={data.settings.unit} />
