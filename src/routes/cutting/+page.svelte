<script lang="ts">
  import { toast } from 'svelte-sonner';
  import { page } from '$app/state';
  import { counted } from '$core/units/counted';
  import type { CutClosed } from '$lib/server/cutting/cut';
  import type { CutListLine } from '$lib/server/cutting/cut-list';
  import { attempt, send } from '$lib/ui/common/client';
  import type { Column } from '$lib/ui/list/column';
  import ListTable from '$lib/ui/list/ListTable.svelte';
  import RowPictures from '$lib/ui/list/RowPictures.svelte';
  import { ListRows } from '$lib/ui/list/rows.svelte';
  import { fromServer } from '$lib/ui/list/source';
  import { live } from '$lib/ui/common/live.svelte';
  import { LastSaid } from '$lib/ui/cutting/last-said';
  import RollInCutter from '$lib/ui/cutting/RollInCutter.svelte';
  import WaitingRoll from '$lib/ui/cutting/WaitingRoll.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  const idOf = (cut: CutListLine) => cut.id;
  const rows = new ListRows(fromServer<CutListLine>('cuts'), idOf);
  const WORDS = {
    waiting: 'waits for the cutter',
    loaded: 'lies in the cutter',
    registered: 'marks found',
    cutting: 'being cut',
    cut: 'cut'
  } as const;
  const showsCut = $derived(page.url.searchParams.getAll('list').includes('cut'));
  const isOpen = ({ state, closed }: CutListLine) => (state !== 'cut' && state !== 'cutting') || closed !== null;

  /** What a person says of prints that no cutter of the shop cuts; what is cut or being cut is left alone. */
  async function say(ids: readonly number[], what: CutClosed | 'put back'): Promise<void> {
    await attempt(async () => {
      const done = await send<{ ids: number[] }>('POST', '/api/cuts/many', { ids, what });
      rows.ticked.clear();
      const stay = ids.length - done.ids.length;
      const rest =
        stay === 0
          ? ''
          : ` ${counted(stay, 'print')} ${stay === 1 ? 'was' : 'were'} left as ${stay === 1 ? 'it is' : 'they are'}.`;
      if (done.ids.length === 0) toast.warning(`Nothing was changed.${rest}`);
      else if (what === 'put back') toast.success(`${counted(done.ids.length, 'print')} put back.${rest}`);
      else
        toast.success(`${counted(done.ids.length, 'print')} put down as ${what}.${rest}`, {
          action: { label: 'Take back', onClick: () => void say(done.ids, 'put back') }
        });
    });
  }
  const COLUMNS: Column[] = [
    { key: 'picture', label: '', width: 11 },
    { key: 'code', label: 'Cut task', sort: 'number', width: 9, isName: true },
    { key: 'stage', label: 'How far', sort: 'stage', width: 12 },
    { key: 'media', label: 'Media', sort: 'media', width: 11 },
    { key: 'dockets', label: 'Dockets' },
    { key: 'run', label: 'Run', sort: 'run', width: 6 },
    { key: 'go', label: '', width: 5, right: true }
  ];
  const machines = $derived(data.machines.map(live.machine));
  const cutters = $derived(machines.filter(({ cutter }) => cutter?.abilities.cutsRolls));
  const last = new LastSaid();
  const laid = $derived(
    machines
      .map((machine) => last.of(machine))
      .flatMap((machine) =>
        machine.cutter?.abilities.cutsRolls && machine.cutter.roll ? [{ machine, roll: machine.cutter.roll }] : []
      )
  );
  const TITLES = { list: 'List', stage: 'How far', media: 'Media' };
</script>

<div class="flex h-full flex-col">
  {#if laid.length > 0 || data.waiting.length > 0}
    <div class="border-base-300 max-h-[60%] shrink-0 space-y-5 overflow-auto border-b p-4">
      {#each laid as { machine, roll } (machine.id)}<RollInCutter {machine} {roll} />{/each}
      {#if data.waiting.length > 0}
        <h2 class="panel-title">Rolls and sheets that wait</h2>
        {#each data.waiting as roll (roll.key)}<WaitingRoll {roll} {cutters} />{/each}
      {/if}
    </div>
  {/if}
  <div class="min-h-0 grow">
    <ListTable
      name="cut tasks"
      first={data.list}
      shape={data.shape}
      {rows}
      {idOf}
      nameOf={(cut) => cut.code}
      hrefOf={(cut) => `/cutting/${cut.id}`}
      columns={COLUMNS}
      rowHeight={52}
      facetTitles={TITLES}
      canTick={isOpen}
      lookFor="Code, docket, customer or run"
    >
      {#snippet cell(cut, key)}
        {#if key === 'picture'}<RowPictures dockets={cut.pictures} />
        {:else if key === 'code'}<a class="font-semibold hover:underline" href="/cutting/{cut.id}">{cut.code}</a>
        {:else if key === 'stage'}
          <div>{cut.closed ?? WORDS[cut.state]}</div>
          {#if cut.reason}<div class="text-warning truncate text-xs" title={cut.reason}>{cut.reason}</div>{/if}
        {:else if key === 'media'}<div class="truncate">{cut.media}</div>
        {:else if key === 'dockets'}
          <div class="truncate" title={cut.names}>{cut.names}{cut.dockets > 4 ? `, and ${cut.dockets - 4} more` : ''}</div>
        {:else if key === 'run'}<a class="link" href="/runs/{cut.runId}">Run {cut.runId}</a>
        {:else if key === 'go'}<a class="btn btn-sm" href="/cutting/{cut.id}">{cut.state === 'cut' ? 'Look' : 'Cut'}</a>{/if}
      {/snippet}
      {#snippet actions()}
        {@const ids = [...rows.ticked]}
        {#if showsCut && ids.length > 0}
          <button class="btn btn-sm" title="Those that were put down by hand" onclick={() => say(ids, 'put back')}
            >Put {counted(ids.length, 'print')} back</button
          >
        {/if}
        <button
          class="btn btn-sm"
          disabled={ids.length === 0}
          title={ids.length === 0 ? 'Tick prints first' : 'By hand, or on another cutter from a file'}
          onclick={() => say(ids, 'cut elsewhere')}>Cut elsewhere</button
        >
        <button
          class="btn btn-sm"
          disabled={ids.length === 0}
          title={ids.length === 0 ? 'Tick prints first' : 'They were spoiled, or go out uncut'}
          onclick={() => say(ids, 'not to be cut')}>Not to be cut</button
        >
      {/snippet}
      {#snippet empty()}Nothing to cut. A print whose dockets are cut comes here by itself when it is done.{/snippet}
    </ListTable>
  </div>
</div>
