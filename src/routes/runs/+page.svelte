<script lang="ts">
  import { toast } from 'svelte-sonner';
  import { counted } from '$core/units/counted';
  import type { RunLine } from '$lib/server/production/run-list';
  import { sheetsInWords } from '$lib/sheets';
  import { send } from '$lib/ui/common/client';
  import { live } from '$lib/ui/common/live.svelte';
  import type { Column } from '$lib/ui/list/column';
  import ListTable from '$lib/ui/list/ListTable.svelte';
  import RowPictures from '$lib/ui/list/RowPictures.svelte';
  import { ListRows } from '$lib/ui/list/rows.svelte';
  import { fromServer } from '$lib/ui/list/source';
  import type { PageProps } from './$types';
  import { tape } from '$lib/ui/common/shop-unit';

  let { data }: PageProps = $props();

  const idOf = (run: RunLine) => run.id;
  const rows = new ListRows(fromServer<RunLine>('runs'), idOf);
  const COLUMNS: Column[] = [
    { key: 'picture', label: '', width: 11 },
    { key: 'run', label: 'Run', sort: 'number', width: 6, isName: true },
    { key: 'stage', label: 'How far', sort: 'stage', width: 11 },
    { key: 'media', label: 'Media', sort: 'media', width: 13 },
    { key: 'dockets', label: 'Dockets', sort: 'dockets' },
    { key: 'length', label: 'Length', sort: 'length', width: 6, right: true },
    { key: 'waste', label: 'Waste', sort: 'waste', width: 5, right: true },
    { key: 'look', label: '', width: 6, right: true }
  ];
  const TITLES = { list: 'List', stage: 'How far', media: 'Media', machine: 'Machine' };

  /** One after another; what is refused is told, and the rest is done all the same. */
  async function forEach(act: (id: number) => Promise<unknown>, done: string): Promise<void> {
    const refused: string[] = [];
    const ids = [...rows.ticked].sort((p, q) => p - q);
    for (const id of ids)
      await act(id).catch((error: unknown) =>
        refused.push(`Run ${id}: ${error instanceof Error ? error.message : String(error)}`)
      );
    rows.ticked.clear();
    if (refused.length < ids.length) toast.success(`${counted(ids.length - refused.length, 'run')} ${done}.`);
    if (refused.length > 0) toast.error(refused.slice(0, 5).join(' '));
  }
  const release = () => forEach((id) => send('POST', `/api/runs/${id}/release`), 'released');
  const remove = () => forEach((id) => send('DELETE', `/api/runs/${id}`), 'deleted');

  function stage(run: RunLine): string {
    const task = live.task('rip', run.id, null);
    if (run.state === 'ripping') return task ? `at the RIP, ${Math.round(task.share * 100)} %` : 'at the RIP';
    if (run.state !== 'ripped') return run.state;
    if (run.releasedAt !== null) return 'released, waits';
    return run.stale ? 'RIPped, layout changed since' : 'RIPped';
  }
</script>

<ListTable
  name="runs"
  first={data.list}
  shape={data.shape}
  {rows}
  {idOf}
  nameOf={(run) => `run ${run.id}`}
  hrefOf={(run) => `/runs/${run.id}`}
  columns={COLUMNS}
  rowHeight={52}
  facetTitles={TITLES}
  lookFor="Docket, customer, media or number"
>
  {#snippet cell(run, key)}
    {#if key === 'picture'}<RowPictures dockets={run.pictures} />
    {:else if key === 'run'}<a class="font-semibold hover:underline" href="/runs/{run.id}">Run {run.id}</a>
    {:else if key === 'stage'}{stage(run)}
    {:else if key === 'media'}
      <div class="truncate">{run.media}</div>
      <div class="text-base-content/70 truncate text-xs">{run.machine}, {run.mode}</div>
    {:else if key === 'dockets'}
      <div class="truncate" title={run.names}>{run.names}{run.dockets > 4 ? `, and ${run.dockets - 4} more` : ''}</div>
    {:else if key === 'length'}
      <span class="text-base font-semibold"
        >{run.sheets !== null
          ? sheetsInWords(run.sheets, run.inJig === 1)
          : run.lengthMm === null
            ? ''
            : tape(run.lengthMm)}</span
      >
    {:else if key === 'waste'}{run.wasteShare === null ? '' : `${Math.round(run.wasteShare * 100)} %`}
    {:else if key === 'look' && run.ripped}<a class="btn btn-sm" href="/runs/{run.id}/inspect">Inspect</a>{/if}
  {/snippet}
  {#snippet actions()}
    {#if rows.ticked.size > 0}
      <button class="btn btn-sm" title="Runs that were printed stay" onclick={remove}
        >Delete {counted(rows.ticked.size, 'run')}</button
      >
    {/if}
    <button
      class="btn btn-primary btn-sm"
      disabled={rows.ticked.size === 0}
      title={rows.ticked.size === 0 ? 'Tick runs first' : 'Each prints as soon as its media is loaded'}
      onclick={release}>Release {rows.ticked.size > 0 ? counted(rows.ticked.size, 'run') : 'the ticked runs'}</button
    >
  {/snippet}
  {#snippet empty()}
    No runs yet. A run is dockets laid out together on one roll.
    <a class="link" href="/dockets">Tick dockets and lay them out</a>
  {/snippet}
</ListTable>
