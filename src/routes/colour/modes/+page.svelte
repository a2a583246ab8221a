<script lang="ts">
  import { beyondMm } from '$core/artwork/choices';
  import Pin from '@lucide/svelte/icons/pin';
  import { untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { areaUnit, formatFigure } from '$core/units/length';
  import { localPage, localShape, readListQuery } from '$lib/listing';
  import { MODE_LIST, toModeRows, usualCost, type ModeRow } from '$lib/mode-list';
  import ColourSections from '$lib/ui/colour/ColourSections.svelte';
  import { attempt, duration, send } from '$lib/ui/common/client';
  import type { Column } from '$lib/ui/list/column';
  import ListTable from '$lib/ui/list/ListTable.svelte';
  import { ListRows } from '$lib/ui/list/rows.svelte';
  import { fromRows } from '$lib/ui/list/source';
  import type { PageProps } from './$types';
  import { areaOf } from '$lib/ui/common/shop-unit';

  let { data }: PageProps = $props();

  const TITLES = {
    machine: 'Machine',
    inkSet: 'Ink set',
    family: 'Media family',
    maker: 'Maker',
    dpi: 'Resolution',
    quality: 'Quality',
    passes: 'Passes',
    direction: 'Direction',
    profile: 'Has a profile'
  };
  const modes = $derived(toModeRows(data.modes, data.media));
  const shape = localShape(MODE_LIST);
  const first = $derived(localPage(modes, MODE_LIST, readListQuery(page.url.searchParams, shape)));
  const rows = new ListRows(
    fromRows(() => modes, MODE_LIST),
    MODE_LIST.id
  );
  const asked = (name: string) => page.url.searchParams.get(name);
  // Where the finder is opened from a card, that is printed on.
  let mediaId = $state(untrack(() => Number(asked('card'))));
  untrack(() => {
    const sought = modes.find(({ code }) => code === asked('mode'));
    if (sought) rows.ticked.add(sought.number);
  });

  const ticked = $derived([...rows.ticked].flatMap((number) => modes[number] ?? []));
  // The first of the list is at hand until another is ticked.
  const mode = $derived(ticked[0] ?? first.rows[0]);
  const compared = $derived(ticked.length === 2 ? ticked : []);
  const media = $derived(mode?.fitting.find(({ id }) => id === mediaId) ?? mode?.fitting[0]);
  const machine = $derived(data.machines.find((one) => one.printer?.model === mode?.machine));
  const areaIn = $derived(areaUnit(data.settings.unit));
  const square = $derived(areaIn.m2 === 1 ? 'A square metre' : 'A square foot');
  const area = $derived.by(() => {
    if (!data.docket) return areaIn.m2;
    const { widthMm, heightMm, copies } = data.docket.choices;
    const beyond = 2 * beyondMm(data.docket.choices);
    return ((widthMm + beyond) * (heightMm + beyond) * copies) / 1e6;
  });
  const cost = (one: ModeRow) => usualCost(one, area, data.settings.inkCostPerMl);
  const money = (value: number) => `${data.settings.currency}${value.toFixed(2)}`;
  const speedOf = ({ speedM2PerH }: ModeRow) => `${formatFigure(speedM2PerH / areaIn.m2, 1)} ${areaIn.name}/h`;
  const COLUMNS = $derived<Column[]>([
    { key: 'used', label: 'Used', sort: 'used', width: 4.5 },
    { key: 'mode', label: 'Mode', sort: 'mode', isName: true },
    { key: 'machine', label: 'Machine, inks', sort: 'machine', width: 9 },
    { key: 'family', label: 'Media', sort: 'family', width: 6.5 },
    { key: 'quality', label: 'Quality', sort: 'quality', width: 6 },
    { key: 'speed', label: `${areaIn.name}/h`, sort: 'speed', width: 4, right: true },
    { key: 'ink', label: data.docket ? 'This docket' : square, sort: 'ink', width: 8.5, right: true }
  ]);
  const wholeName = (one: ModeRow) => `${one.name} for ${one.family} on ${one.machine}`;

  const pin = (one: ModeRow) => attempt(() => send('PUT', '/api/modes', { code: one.code, pinned: !one.pinned }));
  function pick(one: ModeRow): void {
    rows.ticked.clear();
    rows.ticked.add(one.number);
  }

  async function take(): Promise<void> {
    if (!mode || !media || !machine) return;
    await attempt(async () => {
      const condition = await send<{ id: number }>('POST', '/api/conditions', {
        machineId: machine.id,
        mediaId: media.id,
        mode: mode.code
      });
      if (data.docket) {
        await send('PUT', `/api/dockets/${data.docket.id}`, {
          version: data.docket.version,
          choices: { ...data.docket.choices, conditionId: condition.id }
        });
        await goto(`/dockets/${data.docket.id}`);
      } else await goto(`/colour/${condition.id}`);
    });
  }
  const hindrance = $derived(
    !mode
      ? 'Choose a mode in the list.'
      : ticked.length > 2
        ? `${ticked.length} are ticked. Tick the one that is meant.`
        : !mode.here
          ? `There is no ${mode.machine} in this shop. Add it under Shop to print in this mode.`
          : !machine
            ? `${mode.machine} does not answer. Switch it on.`
            : !media
              ? `No media card is for ${mode.family} on ${mode.machine}. Make one under Media, or take one from the library.`
              : undefined
  );

  const ROWS: [string, (one: ModeRow) => string][] = [
    ['Machine, inks', (one) => `${one.machine}, ${one.inkSet}`],
    ['Media family', (one) => one.family],
    ['Maker', (one) => one.maker],
    ['Resolution', (one) => `${one.dpi} × ${one.dpi}`],
    ['Passes', (one) => `${one.passes}, ${one.direction}`],
    ['Quality', (one) => one.quality],
    ['Drops', (one) => `${one.drops.join(', ')} pl`],
    ['Speed', (one) => speedOf(one)],
    ['Most ink, to begin with', (one) => `${Math.round(one.limits.total * 100)} %`],
    ['Printed in it', (one) => (one.used === 0 ? 'never' : one.used === 1 ? 'once' : `${one.used} times`)]
  ];
</script>

<h1 class="sr-only">Find a print mode</h1>
<div class="flex h-full flex-col">
  <ColourSections />
  <div class="min-h-0 grow">
    <ListTable
      name="print modes"
      {first}
      {shape}
      {rows}
      idOf={MODE_LIST.id}
      nameOf={wholeName}
      columns={COLUMNS}
      rowHeight={44}
      facetTitles={TITLES}
      lookFor="gloss white, 720, fine …"
    >
      {#snippet cell(one, key)}
        {#if key === 'used'}<button
            class="btn btn-xs btn-ghost gap-1 px-1"
            aria-pressed={one.pinned}
            aria-label="{one.pinned ? 'Let go of' : 'Pin'} {wholeName(one)}"
            title={one.pinned ? 'Pinned: above all others' : 'Pin above all others'}
            onclick={() => pin(one)}
            ><Pin size={14} fill={one.pinned ? 'currentColor' : 'none'} aria-hidden="true" />{one.used || ''}</button
          >
        {:else if key === 'mode'}<button
            class="block max-w-full truncate text-left font-semibold hover:underline"
            title={one.name}
            onclick={() => pick(one)}>{one.name}</button
          >{#if one.profiled}<div class="text-xs">✓ profiled</div>{/if}
        {:else if key === 'machine'}<div class="truncate">{one.machine}, {one.inkSet}</div>
          {#if !one.here}<div class="text-base-content/70 text-xs">not in this shop</div>{/if}
        {:else if key === 'family'}{one.family}
        {:else if key === 'quality'}{one.quality}
        {:else if key === 'speed'}{(one.speedM2PerH / areaIn.m2).toFixed(1)}
        {:else}{duration(cost(one).minutes * 60)}
          <div class="text-xs">ink {money(cost(one).inkCost)}</div>{/if}
      {/snippet}
      {#snippet actions()}
        {#if ticked.length === 1}<span class="text-base-content/70 text-sm">Tick a second one to compare them.</span
          >{:else if ticked.length > 2}<span class="text-base-content/70 text-sm">Two are compared at a time.</span>{/if}
      {/snippet}
      {#snippet empty()}No print modes yet. A printer gives its own when it is added under Shop.{/snippet}
      {#snippet beside()}
        <aside
          class="border-base-300 min-h-0 w-72 shrink-0 space-y-4 overflow-y-auto border-l p-4 text-sm 2xl:w-96"
          aria-label="The mode"
        >
          {#if compared.length === 2}
            {@const [p, q] = compared as [ModeRow, ModeRow]}
            <h2 class="font-semibold">Compared</h2>
            <table class="w-full table-fixed">
              <thead
                ><tr class="text-left"><td></td><th scope="col" class="pr-2">{p.name}</th><th scope="col">{q.name}</th></tr
                ></thead
              >
              <tbody>
                {#each ROWS as [words, say] (words)}
                  <tr class="border-base-300 border-b align-top {say(p) === say(q) ? 'text-base-content/70' : 'font-semibold'}"
                    ><th scope="row" class="py-0.5 pr-2 text-left font-normal">{words}</th><td class="pr-2">{say(p)}</td><td
                      >{say(q)}</td
                    ></tr
                  >
                {/each}
                <tr class="font-semibold"
                  ><th scope="row" class="text-left font-normal">{data.docket ? 'This docket' : square}</th><td
                    >{duration(cost(p).minutes * 60)}<br />ink {money(cost(p).inkCost)}</td
                  ><td>{duration(cost(q).minutes * 60)}<br />ink {money(cost(q).inkCost)}</td></tr
                >
              </tbody>
            </table>
            {#each [p, q] as one (one.code)}<button class="btn btn-sm h-auto min-h-8 w-full py-1" onclick={() => pick(one)}
                >Go on with {one.name}</button
              >{/each}
          {:else if mode}
            <h2 class="text-base font-semibold">{mode.name}</h2>
            <dl class="grid grid-cols-[8rem_1fr] gap-y-0.5">
              {#each ROWS as [words, say] (words)}<dt class="text-base-content/70">{words}</dt>
                <dd>{say(mode)}</dd>{/each}
            </dl>
            {#each mode.conditions as condition (condition.id)}
              <p>
                <a class="link" href="/colour/{condition.id}">{condition.media}</a>: {condition.profiled
                  ? 'profiled'
                  : 'as the machine says'}
              </p>
            {/each}
            {#if mode.fitting.length > 0}
              <label class="block"
                >Media<select
                  class="select select-sm flex w-full"
                  value={media?.id}
                  onchange={(event) => (mediaId = Number(event.currentTarget.value))}
                  >{#each mode.fitting as one (one.id)}<option value={one.id}>{one.name}</option>{/each}</select
                ></label
              >
            {/if}
            {#if data.docket && media}
              <p>
                For {data.docket.name}: {areaOf(area)}, {duration(cost(mode).minutes * 60)}, media {money(
                  area * media.costPerM2
                )}, ink about {money(cost(mode).inkCost)} at usual coverage.
              </p>
            {/if}
          {/if}
          {#if compared.length !== 2}
            <button class="btn btn-primary btn-sm w-full" disabled={!!hindrance} onclick={take}
              >{data.docket ? 'Print the docket in this mode' : 'Make this a condition'}</button
            >
            {#if hindrance}<p>{hindrance}</p>{/if}
          {/if}
        </aside>
      {/snippet}
    </ListTable>
  </div>
</div>
