<script lang="ts">
  import Check from '@lucide/svelte/icons/check';
  import Circle from '@lucide/svelte/icons/circle';
  import Clock from '@lucide/svelte/icons/clock-alert';
  import { page } from '$app/state';
  import { STEP_WORDS, STEPS } from '$lib/calibration';
  import { localPage, localShape, readListQuery, type LocalSpec } from '$lib/listing';
  import { watchWords } from '$lib/watch';
  import type { Condition } from '$lib/server/conditions/condition';
  import ColourSections from '$lib/ui/colour/ColourSections.svelte';
  import type { Column } from '$lib/ui/list/column';
  import ListTable from '$lib/ui/list/ListTable.svelte';
  import { ListRows } from '$lib/ui/list/rows.svelte';
  import { fromRows } from '$lib/ui/list/source';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  const FROM = { measured: 'measured here', imported: 'taken from a file', start: 'as the machine says' };
  const profileOf = ({ profile }: Condition) => (profile ? FROM[profile] : 'being made…');
  const dueOf = ({ id }: Condition) => data.due.find(({ conditionId }) => conditionId === id)?.why;
  const watchOf = (condition: Condition) => watchWords(condition.watch, dueOf(condition), data.settings.limits.driftDeltaE);
  const nextOf = ({ steps }: Condition) => {
    const next = STEPS.find((step) => steps[step].state !== 'done');
    return next ? `${STEP_WORDS[next].name} next` : 'all done';
  };
  const watchFacet = (condition: Condition) => {
    const { level } = watchOf(condition);
    return level === 'look' ? 'to be read' : level === 'done' ? 'as it was' : 'no baseline';
  };
  const SPEC: LocalSpec<Condition> = {
    id: ({ id }) => id,
    words: ({ media, machine, mode }) => `${media} ${machine} ${mode.name} ${mode.quality}`,
    sorts: {
      media: ({ media }) => media,
      machine: ({ machine }) => machine,
      mode: ({ mode }) => mode.name,
      profile: profileOf
    },
    facets: {
      machine: ({ machine }) => machine,
      media: ({ media }) => media,
      next: nextOf,
      watch: watchFacet,
      profile: profileOf
    },
    usual: { sort: 'media', down: false }
  };
  const shape = localShape(SPEC);
  const first = $derived(localPage(data.conditions, SPEC, readListQuery(page.url.searchParams, shape)));
  const rows = new ListRows(
    fromRows(() => data.conditions, SPEC),
    SPEC.id
  );
  const COLUMNS: Column[] = [
    { key: 'media', label: 'Media', sort: 'media', isName: true },
    { key: 'machine', label: 'Machine', sort: 'machine', width: 6 },
    { key: 'mode', label: 'Print mode', sort: 'mode' },
    ...STEPS.map((step) => ({ key: step, label: STEP_WORDS[step].name, width: 5.8 })),
    { key: 'watch', label: 'Watch', width: 11 },
    { key: 'from', label: 'Profile is', sort: 'profile', width: 10 }
  ];
  const TITLES = { machine: 'Machine', media: 'Media', next: 'Next step', watch: 'Watch', profile: 'Profile' };
</script>

<div class="flex h-full flex-col">
  <ColourSections />
  <div class="min-h-0 grow">
    <ListTable
      name="conditions"
      {first}
      {shape}
      {rows}
      idOf={SPEC.id}
      nameOf={({ media, mode }) => `${media}, ${mode.name}`}
      hrefOf={({ id }) => `/colour/${id}`}
      columns={COLUMNS}
      rowHeight={44}
      facetTitles={TITLES}
      tickable={false}
      lookFor="Media, machine or mode"
    >
      {#snippet cell(condition, key)}
        {#if key === 'watch'}
          {@const { words, level } = watchOf(condition)}
          <a
            href="/colour/{condition.id}?step=watch"
            class="inline-flex min-h-6 max-w-full items-center gap-1 hover:underline"
            title={words}
            >{#if level === 'done'}<Check
                size={15}
                class="text-success shrink-0"
                aria-hidden="true"
              />{:else if level === 'look'}<Clock size={15} class="text-warning shrink-0" aria-hidden="true" />{:else}<Circle
                size={12}
                class="shrink-0 opacity-50"
                aria-hidden="true"
              />{/if}<span class="truncate">{words}</span></a
          >
        {:else if key === 'media'}<a class="link block truncate font-semibold" href="/colour/{condition.id}">{condition.media}</a>
        {:else if key === 'machine'}<div class="truncate">{condition.machine}</div>
        {:else if key === 'mode'}
          <div class="truncate">{condition.mode.name}</div>
          <div class="text-base-content/70 truncate">{condition.mode.quality}</div>
        {:else if key === 'from'}{profileOf(condition)}
        {:else}
          {#each STEPS.filter((step) => step === key) as step (step)}
            {@const { state } = condition.steps[step]}
            <a href="/colour/{condition.id}?step={step}" class="inline-flex min-h-6 items-center gap-1 hover:underline"
              >{#if state === 'done'}<Check size={15} class="text-success" aria-hidden="true" />{:else if state === 'stale'}<Clock
                  size={15}
                  class="text-warning"
                  aria-hidden="true"
                />{:else}<Circle size={12} class="opacity-50" aria-hidden="true" />{/if}{state}</a
            >
          {/each}
        {/if}
      {/snippet}
      {#snippet actions()}
        {#if data.away.length > 0}
          <details class="dropdown dropdown-end">
            <summary class="btn btn-sm">{data.away.length} put away</summary>
            <ul class="dropdown-content bg-base-100 border-base-300 z-20 max-h-96 w-80 overflow-auto border p-2 text-sm">
              {#each data.away as one (one.id)}
                <li>
                  <a class="hover:bg-base-200 block px-2 py-1" href="/colour/{one.id}"
                    ><span class="font-semibold">{one.media}</span>
                    <span class="block text-xs">{one.machine}, {one.mode.name}, {one.mode.quality}</span></a
                  >
                </li>
              {/each}
            </ul>
          </details>
        {/if}
        <a class="btn btn-sm btn-primary" href="/colour/modes">New condition: find a print mode</a>
      {/snippet}
      {#snippet empty()}
        A printing condition is a machine with a media in a print mode. It is climbed in six steps, from the ink limits to a
        verified profile, and watched from then on. {data.machines.some((machine) => machine.kind === 'printer')
          ? 'Find a print mode to begin with.'
          : 'Add a printer under Shop first.'}
      {/snippet}
    </ListTable>
  </div>
</div>
