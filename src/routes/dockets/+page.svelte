<script lang="ts">
  import { untrack } from 'svelte';
  import { toast } from 'svelte-sonner';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { counted } from '$core/units/counted';
  import { sizeFigure } from '$core/units/length';
  import { dueInWords } from '$lib/due';
  import type { DocketLine } from '$lib/server/dockets/docket-list';
  import { attempt, send } from '$lib/ui/common/client';
  import LevelIcon from '$lib/ui/common/LevelIcon.svelte';
  import EditTogether from '$lib/ui/docket/EditTogether.svelte';
  import ApplyRecipe from '$lib/ui/recipes/ApplyRecipe.svelte';
  import type { Column } from '$lib/ui/list/column';
  import ListTable from '$lib/ui/list/ListTable.svelte';
  import RowPictures from '$lib/ui/list/RowPictures.svelte';
  import { ListRows } from '$lib/ui/list/rows.svelte';
  import { fromServer } from '$lib/ui/list/source';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  let applyRecipe: ReturnType<typeof ApplyRecipe>;
  const idOf = (docket: DocketLine) => docket.id;
  const rows = new ListRows(fromServer<DocketLine>('dockets'), idOf);
  // Dockets just made come ticked, to be edited together.
  untrack(() => (page.url.searchParams.get('tick') ?? '').split(',').map(Number))
    .filter((id) => Number.isSafeInteger(id) && id > 0)
    .forEach((id) => rows.ticked.add(id));
  const ticked = $derived([...rows.ticked]);
  let editing = $state(untrack(() => rows.ticked.size > 1));
  const together = $derived(editing && ticked.length > 1);
  const showsAway = $derived(page.url.searchParams.getAll('list').includes('put away'));

  const columns: Column[] = $derived([
    { key: 'picture', label: 'Added', sort: 'number', width: 6 },
    { key: 'name', label: 'Docket', sort: 'name', isName: true },
    { key: 'customer', label: 'Customer', sort: 'customer' },
    { key: 'due', label: 'Due', sort: 'due', width: 6.5 },
    { key: 'copies', label: 'Copies', sort: 'copies', width: 4.5, right: true },
    { key: 'size', label: `Size, ${data.settings.unit}`, sort: 'size', width: 8, right: true },
    { key: 'media', label: 'Media', sort: 'media' },
    { key: 'check', label: 'Check', sort: 'check', width: 5 },
    { key: 'stage', label: 'How far', sort: 'stage', width: 7 }
  ]);
  /** Sorted by these, dockets stand in groups. */
  const GROUPS = {
    customer: (docket: DocketLine) => docket.customer,
    media: (docket: DocketLine) => docket.media ?? ''
  };
  const groupedBy = $derived((page.url.searchParams.get('sort') ?? '').replace('-', ''));
  const TITLES = {
    list: 'List',
    stage: 'How far',
    due: 'Due',
    media: 'Media',
    machine: 'Machine',
    customer: 'Customer',
    check: 'Worst check'
  };
  const STAGES = { waiting: 'not laid out', 'laid out': 'laid out', printing: 'printing', printed: 'to cut', done: 'done' };

  async function layOut(): Promise<void> {
    await attempt(async () => {
      const asked = ticked.length;
      const { id, ids, stay } = await send<{ id: number; ids: number[]; stay: number }>('POST', '/api/runs', {
        docketIds: ticked
      });
      const stays =
        stay === 0
          ? ''
          : ` ${counted(stay, 'docket')} ${stay === 1 ? 'lies in a run' : 'lie in runs'} already, and ${stay === 1 ? 'stays' : 'stay'} there.`;
      if (stay === asked) toast(`Nothing was laid out:${stays}`);
      else if (stay > 0) toast.success(`Laid out.${stays}`);
      else if (ids.length > 1) toast.success(`Laid out in ${ids.length} runs, by their media.`);
      await goto(ids.length > 1 ? '/runs?list=open' : `/runs/${id}`);
    });
  }
  const undo = (ids: readonly number[], what: 'put away' | 'bring back' | 'restore') => ({
    action: {
      label: 'Take back',
      onClick: () =>
        void attempt(() => send('POST', '/api/dockets/many', { ids, what }), `Taken back: ${counted(ids.length, 'docket')}.`)
    }
  });
  async function putAway(away: boolean): Promise<void> {
    await attempt(async () => {
      const [what, back] = away ? (['put away', 'bring back'] as const) : (['bring back', 'put away'] as const);
      const { ids } = await send<{ ids: number[] }>('POST', '/api/dockets/many', { ids: ticked, what });
      rows.ticked.clear();
      toast.success(`${counted(ids.length, 'docket')} ${away ? 'put away' : 'brought back'}.`, undo(ids, back));
    });
  }
  async function remove(): Promise<void> {
    await attempt(async () => {
      const { removed, inRuns } = await send<{ removed: number[]; inRuns: number[] }>('DELETE', '/api/dockets/many', {
        ids: ticked
      });
      rows.ticked.clear();
      const stay =
        inRuns.length === 0
          ? ''
          : ` ${counted(inRuns.length, 'docket')} ${inRuns.length === 1 ? 'is' : 'are'} in runs and ${inRuns.length === 1 ? 'stays' : 'stay'}.`;
      if (removed.length === 0) toast.warning(`Nothing was deleted.${stay}`);
      else toast.success(`${counted(removed.length, 'docket')} deleted.${stay}`, undo(removed, 'restore'));
    });
  }
</script>

<ListTable
  name="dockets"
  first={data.list}
  shape={data.shape}
  {rows}
  {idOf}
  nameOf={(docket) => docket.name}
  hrefOf={(docket) => `/dockets/${docket.id}`}
  {columns}
  rowHeight={52}
  facetTitles={TITLES}
  lookFor="Name, customer, note or number"
  besideOpen={together}
  groups={GROUPS}
>
  {#snippet cell(docket, key, repeated)}
    {#if key === 'picture'}<RowPictures dockets={[docket]} />
    {:else if key === 'name'}
      <a class="block truncate text-sm font-semibold hover:underline" title={docket.name} href="/dockets/{docket.id}"
        >{docket.name}</a
      >
      <div class="text-base-content/70 truncate text-xs">
        Docket {docket.id}{docket.priority === 'normal' ? '' : `, ${docket.priority} priority`}{docket.note
          ? `, ${docket.note}`
          : ''}
      </div>
    {:else if key === 'customer'}<div
        class="truncate {repeated ? 'text-base-content/70' : groupedBy === 'customer' ? 'font-semibold' : ''}"
        title={docket.customer}
      >
        {docket.customer}
      </div>
    {:else if key === 'due'}
      <div
        class="truncate {docket.dueOn !== '' && docket.dueOn < data.today && !docket.away ? 'text-error font-semibold' : ''}"
        title={docket.dueOn}
      >
        {dueInWords(docket.dueOn, data.today)}
      </div>
    {:else if key === 'copies'}<span class="text-base font-semibold">{docket.copies.toLocaleString('en-GB')}</span>
    {:else if key === 'size'}<span class="whitespace-nowrap"
        >{sizeFigure(docket.widthMm, data.settings.unit)} × {sizeFigure(docket.heightMm, data.settings.unit)}</span
      >
    {:else if key === 'media'}
      <div class="truncate {repeated ? 'text-base-content/70' : groupedBy === 'media' ? 'font-semibold' : ''}">
        {docket.media ?? 'not chosen'}
      </div>
      <div class="text-base-content/70 truncate text-xs">{docket.machine ?? ''}{docket.cut ? ', cut' : ''}</div>
    {:else if key === 'check'}
      {#if docket.worst === null}<span class="text-base-content/70" title="It is looked at in a moment">…</span>{:else}<LevelIcon
          level={docket.worst === 2 ? 'stop' : docket.worst === 1 ? 'look' : 'fine'}
        />{/if}
    {:else if key === 'stage'}
      <div>{STAGES[docket.stage]}{docket.away && docket.stage !== 'done' ? ', put away' : ''}</div>
      {#if docket.runId}<a class="link text-xs" href="/runs/{docket.runId}">Run {docket.runId}</a>{/if}
    {/if}
  {/snippet}
  {#snippet actions()}
    {#if ticked.length > 0}
      {#if ticked.length > 1}
        <button class="btn btn-sm" aria-pressed={editing} onclick={() => (editing = !editing)}>Edit together</button>
      {/if}
      <button class="btn btn-sm" onclick={() => applyRecipe.open()}>Apply a recipe</button>
      <button class="btn btn-sm" onclick={() => putAway(true)}>Put away</button>
      {#if showsAway || page.url.searchParams.has('q')}<button class="btn btn-sm" onclick={() => putAway(false)}
          >Bring back</button
        >{/if}
      <button class="btn btn-sm" title="What is in a run stays. It can be taken back." onclick={remove}
        >Delete {counted(ticked.length, 'docket')}</button
      >
    {/if}
    <button
      class="btn btn-primary btn-sm"
      disabled={ticked.length === 0}
      title={ticked.length === 0 ? 'Tick dockets first' : 'Each goes into the open run of its media'}
      onclick={layOut}>Lay out {ticked.length > 0 ? counted(ticked.length, 'docket') : 'the ticked dockets'}</button
    >
  {/snippet}
  {#snippet empty()}
    No dockets yet. A docket is one customer’s job: a page at a size, so many copies, on a media.
    <a class="link" href="/artwork">Take in artwork</a>
  {/snippet}
  {#snippet beside()}
    {#if together}
      <EditTogether ids={ticked} seen={data.list} conditions={data.conditions} unit={data.settings.unit} />
    {/if}
  {/snippet}
</ListTable>
<ApplyRecipe bind:this={applyRecipe} ids={ticked} />
