<script lang="ts">
  import { goto } from '$app/navigation';
  import { formatMetres } from '$core/units/length';
  import type { Docket } from '$lib/server/dockets';
  import { attempt, docketPicture, send } from '$lib/ui/common/client';
  import Lane from '$lib/ui/floor/Lane.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  const printers = $derived(data.machines.filter((machine) => machine.kind === 'printer'));
  const waiting = $derived(data.dockets.filter((docket) => docket.runId === null));
  const lanes = (machineId: number) => data.conditions.filter((condition) => condition.machineId === machineId);
  let dragged = $state<Docket | null>(null);

  async function layOut(docket: Docket): Promise<void> {
    await attempt(async () => {
      const { id } = await send<{ id: number }>('POST', '/api/runs', { docketIds: [docket.id] });
      await goto(`/runs/${id}`);
    });
  }

  async function drop(conditionId: number): Promise<void> {
    const docket = dragged;
    dragged = null;
    if (!docket) return;
    await attempt(async () => {
      if (docket.choices.conditionId !== conditionId) {
        await send('PUT', `/api/dockets/${docket.id}`, { version: docket.version, choices: { ...docket.choices, conditionId } });
      }
      await send('POST', '/api/runs', { docketIds: [docket.id] });
    }, `${docket.name} is laid out.`);
  }
</script>

<div class="flex h-full">
  <section class="min-w-0 grow overflow-auto p-4" aria-label="Machines and lanes">
    {#each printers as machine (machine.id)}
      <h1 class="mb-2 flex items-baseline gap-3 text-lg font-semibold">
        {machine.name}
        <span class="text-base-content/70 text-sm font-normal">
          {machine.printer
            ? `${machine.printer.media.name} loaded, ${formatMetres(machine.printer.media.lengthMm)} left`
            : 'not reachable'}
        </span>
      </h1>
      {#each lanes(machine.id) as condition (condition.id)}
        <Lane
          {condition}
          loaded={machine.printer?.media.name === condition.media}
          left={machine.printer?.media.name === condition.media ? machine.printer.media.lengthMm : 0}
          runs={data.runs.filter((run) => run.condition.id === condition.id)}
          prints={data.prints}
          dropping={dragged !== null}
          ondrop={() => drop(condition.id)}
        />
      {/each}
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
    <p class="text-base-content/70 px-3 pb-2 text-xs">Drag one to a roll, or press Lay out.</p>
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
