<script lang="ts">
  import { goto } from '$app/navigation';
  import { SvelteMap } from 'svelte/reactivity';
  import { counted } from '$core/units/counted';
  import type { DocketLine } from '$lib/server/dockets/docket-list';
  import type { FloorRun } from '$lib/server/app/floor';
  import type { Machine } from '$lib/server/machines/machines';
  import type { LaneOffer } from '$lib/server/production/lane-offers';
  import type { Lane } from '$lib/server/production/lanes';
  import { attempt, send } from '$lib/ui/common/client';
  import { live } from '$lib/ui/common/live.svelte';
  import LaneOfRuns from '$lib/ui/floor/Lane.svelte';
  import LaneSettings from '$lib/ui/floor/LaneSettings.svelte';
  import LoadMedia from '$lib/ui/floor/LoadMedia.svelte';
  import { offerInWords } from '$lib/ui/floor/offer';
  import { allInWords, commonScale, payOut } from '$lib/ui/floor/paying-out';
  import Tray from '$lib/ui/floor/Tray.svelte';
  import MoveLane from '$lib/ui/run/MoveLane.svelte';
  import type { PageProps } from './$types';
  import { tape } from '$lib/ui/common/shop-unit';

  let { data }: PageProps = $props();

  const floor = $derived(data.floor);
  const printers = $derived(data.machines.map(live.machine).filter((machine) => machine.kind === 'printer'));
  const prints = $derived([
    ...data.prints.map((print) => live.prints.get(print.id) ?? print),
    ...[...live.prints.values()].filter((print) => !data.prints.some(({ id }) => id === print.id))
  ]);
  const placesOf = $derived(
    new Map(floor.lanes.map((lane) => [lane.id, payOut(floor.runs.filter((run) => run.laneId === lane.id))]))
  );
  const isLoaded = (lane: Lane) => printers.find(({ id }) => id === lane.machineId)?.printer?.media.name === lane.media;
  /** The loaded lane first, then those where something waits. */
  const lanes = (machineId: number) =>
    floor.lanes
      .filter((lane) => lane.machineId === machineId)
      .sort((p, q) => Number(isLoaded(q)) - Number(isLoaded(p)) || waits(q.id) - waits(p.id) || p.id - q.id);
  const waits = (laneId: number) => (placesOf.get(laneId) ?? []).filter(({ run }) => run.state !== 'printed').length;
  let width = $state(900);
  const scale = $derived(
    commonScale(
      floor.lanes
        .filter((lane) => isLoaded(lane) || (placesOf.get(lane.id)?.length ?? 0) > 0)
        .map((lane) => ({ acrossMm: lane.condition.rollWidthMm, places: placesOf.get(lane.id) ?? [] })),
      width
    )
  );
  const releasable = $derived(
    floor.runs.filter(
      (run) => (run.state === 'laying out' || run.state === 'ripped') && run.releasedAt === null && run.laid.length > 0
    )
  );
  const releases = $derived(counted(releasable.length, 'run'));
  let loading: LoadMedia;
  let settings: LaneSettings;
  let moving: MoveLane;
  let fromTray = $state(false);

  function choose(ids: number[], name: string, tray: boolean): void {
    fromTray = tray;
    void moving.open(ids, name);
  }
  const left = (machine: Machine): string => {
    if (!machine.printer) return '';
    const { lengthMm, sheetMm, sheets } = machine.printer.media;
    return sheetMm === null ? `${tape(lengthMm)} left` : `${counted(sheets, 'sheet')} left`;
  };
  const leftMm = ({ printer }: Machine) => (printer?.media.sheetMm === null ? printer.media.lengthMm : null);

  interface Dragged {
    ids: number[];
    name: string;
    /** The lane that it comes from. */
    laneId: number | null;
  }
  let dragged = $state.raw<Dragged | null>(null);
  /** By lane: what would become of what is dragged. */
  const offers = new SvelteMap<number, LaneOffer | null>();

  function drag(next: Dragged | null): void {
    dragged = next;
    offers.clear();
  }
  const dragRun = (run: FloorRun | null) =>
    drag(run && { ids: run.dockets.map(({ id }) => id), name: `Run ${run.id}`, laneId: run.laneId });
  /** Asked for once a lane, as soon as something is over it. */
  async function lookAhead(lane: Lane): Promise<void> {
    const of = dragged;
    if (!of || offers.has(lane.id)) return;
    offers.set(lane.id, null);
    const [offer] = await send<LaneOffer[]>('POST', '/api/lanes/offers', { docketIds: of.ids, laneId: lane.id }).catch(() => []);
    if (dragged === of && offer) offers.set(lane.id, offer);
  }
  async function drop(lane: Lane): Promise<void> {
    const of = dragged;
    drag(null);
    if (!of || of.laneId === lane.id) return;
    await attempt(
      () => send('POST', `/api/lanes/${lane.id}/take`, { docketIds: of.ids }),
      `${of.name}: laid out on ${lane.media}.`
    );
  }

  async function layOut(docket: DocketLine): Promise<void> {
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
  let sent = $state('');
  async function sendAll(): Promise<void> {
    await attempt(async () => {
      const { laidOut, waiting } = await send<{ laidOut: number; waiting: number }>('POST', '/api/tray');
      sent = `${laidOut} went to their lanes${waiting > 0 ? `; ${waiting} more wait for the next time` : ''}.`;
    });
  }
</script>

<div class="flex h-full">
  <section class="min-w-0 grow overflow-auto p-4" aria-label="Machines and lanes">
    <div bind:clientWidth={width}></div>
    {#each printers as machine (machine.id)}
      <h1 class="mb-1 flex items-baseline gap-3 text-lg font-semibold" id="machine-{machine.id}">
        {machine.name}
        <span class="text-base-content/70 text-sm font-normal">
          {machine.printer ? `${machine.printer.media.name} loaded, ${left(machine)}` : 'not reachable'}
        </span>
        {#if machine.printer}<button
            class="btn btn-xs"
            onclick={() => void loading.open(machine)}
            aria-label="Change the media on {machine.name}">Change the media</button
          >{/if}
      </h1>
      <!-- Lanes that are empty and not loaded stand side by side, a line each. -->
      <div class="mb-3 flex flex-wrap items-center gap-x-8 gap-y-1">
        {#each lanes(machine.id) as lane (lane.id)}
          {@const loaded = isLoaded(lane)}
          <LaneOfRuns
            {lane}
            {loaded}
            left={left(machine)}
            leftMm={loaded ? leftMm(machine) : null}
            places={placesOf.get(lane.id) ?? []}
            {prints}
            {scale}
            {width}
            dropping={dragged !== null && dragged.laneId !== lane.id}
            offer={dragged ? offerInWords(offers.get(lane.id) ?? null, dragged.ids.length, data.settings.unit) : ''}
            ondragrun={dragRun}
            onmoverun={(run) =>
              choose(
                run.dockets.map(({ id }) => id),
                `Run ${run.id}`,
                false
              )}
            onover={() => void lookAhead(lane)}
            ondrop={() => void drop(lane)}
            onsettings={() => settings.open(lane)}
            onload={() => void loading.open(machine, lane.media)}
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

  <aside
    class="border-base-300 bg-base-200 flex w-64 shrink-0 flex-col border-l min-[1200px]:w-72"
    aria-label="Dockets not laid out yet"
  >
    <h2 class="panel-title p-3 pb-1">Tray: {floor.tray.count.toLocaleString('en-GB')} not laid out yet</h2>
    <p class="text-base-content/70 px-3 pb-2 text-xs">
      Drag to a roll, ticked ones together, or press Lay out: it goes to the lane of its media.
    </p>
    <div class="flex flex-wrap gap-2 px-3 pb-2">
      <button
        class="btn btn-sm"
        disabled={floor.ready === 0}
        title="{floor.ready} with a media chosen, each to the lane of its media"
        onclick={sendAll}>Send all to their lanes</button
      >
      <button
        class="btn btn-sm {releasable.length > 0 ? 'btn-primary' : ''}"
        disabled={releasable.length === 0}
        title="Each prints as soon as its media is loaded"
        onclick={releaseAll}>Release all{releasable.length > 0 ? `: ${releases}` : ''}</button
      >
    </div>
    {#if releasable.length > 0}<p class="text-base-content/70 px-3 pb-2 text-xs">
        {allInWords(releasable, data.settings.unit)} to be released.
      </p>{/if}
    {#if sent}<p class="px-3 pb-2 text-xs" role="status">{sent}</p>{/if}
    <Tray
      first={floor.tray}
      ondrag={(of) => drag(of && { ...of, laneId: null })}
      onlayout={layOut}
      onchoose={(ids, name) => choose(ids, name, true)}
    />
  </aside>
</div>
<LoadMedia bind:this={loading} />
<LaneSettings bind:this={settings} conditions={data.conditions} unit={data.settings.unit} />
<MoveLane bind:this={moving} currency={data.settings.currency} {fromTray} onmoved={() => undefined} />
