<script lang="ts">
  import Pin from '@lucide/svelte/icons/pin';
  import { untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { findModes, modeCost, type Chosen, type Facet } from '$core/media/modes';
  import { attempt, duration, send } from '$lib/ui/common/client';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  const FACET_WORDS: Record<Facet, string> = {
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
  /** Where nothing is known of a docket: usual artwork. */
  const USUAL_COVERAGE = 0.6;
  const MOST_SHOWN = 120;

  let text = $state('');
  /** Where the finder is opened from a card, its family and machine are chosen. */
  const asked = untrack(() => data.media.find(({ id }) => String(id) === page.url.searchParams.get('media')));
  let chosen = $state<Chosen>(asked ? { family: asked.family, machine: asked.machines[0] } : {});
  let order = $state<'used' | 'speed' | 'dpi'>('used');
  let compared = $state<string[]>([]);
  let picked = $state<string>();
  let mediaId = $state(asked?.id);

  const modes = $derived(
    data.modes.map((mode) => {
      const fitting = data.media.filter((one) => one.family === mode.family && one.machines.includes(mode.machine));
      return {
        ...mode,
        profile: mode.conditions.some(({ profiled }) => profiled) ? ('yes' as const) : ('no' as const),
        fitting,
        words: [...fitting.map(({ name }) => name), ...mode.conditions.map(({ media }) => media)].join(' ')
      };
    })
  );
  type Shown = (typeof modes)[number];
  const result = $derived(findModes(modes, chosen, text));
  const sorted = $derived(
    [...result.found].sort(
      (p, q) =>
        Number(q.pinned) - Number(p.pinned) ||
        (order === 'used'
          ? q.used - p.used || Number(q.here) - Number(p.here)
          : order === 'speed'
            ? q.speedM2PerH - p.speedM2PerH
            : q.dpi - p.dpi)
    )
  );
  // The first of the list is at hand until another is picked, or it no longer fits.
  const mode = $derived(sorted.find(({ code }) => code === picked) ?? sorted[0]);
  const media = $derived(mode?.fitting.find(({ id }) => id === mediaId) ?? mode?.fitting[0]);
  const machine = $derived(data.machines.find((one) => one.printer?.model === mode?.machine));
  const area = $derived.by(() => {
    if (!data.docket) return 1;
    const { widthMm, heightMm, bleedMm, copies } = data.docket.choices;
    return ((widthMm + 2 * bleedMm) * (heightMm + 2 * bleedMm) * copies) / 1e6;
  });
  const cost = (one: Shown) => modeCost(one, area, { coverage: USUAL_COVERAGE, costPerMl: data.settings.inkCostPerMl });
  const money = (value: number) => `${data.settings.currency}${value.toFixed(2)}`;

  function choose(facet: Facet, value: string): void {
    chosen = chosen[facet] === value ? { ...chosen, [facet]: undefined } : { ...chosen, [facet]: value };
  }
  const pin = (one: Shown) => attempt(() => send('PUT', '/api/modes', { code: one.code, pinned: !one.pinned }));
  function compare(code: string): void {
    compared = compared.includes(code) ? compared.filter((other) => other !== code) : [...compared, code].slice(-2);
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
      : !mode.here
        ? `There is no ${mode.machine} in this shop. Add it under Shop to print in this mode.`
        : !machine
          ? `${mode.machine} does not answer. Switch it on.`
          : !media
            ? `No media card is for ${mode.family} on ${mode.machine}. Make one under Media, or take one from the library.`
            : undefined
  );

  const ROWS: [string, (one: Shown) => string][] = [
    ['Machine, inks', (one) => `${one.machine}, ${one.inkSet}`],
    ['Media family', (one) => one.family],
    ['Maker', (one) => one.maker],
    ['Resolution', (one) => `${one.dpi} × ${one.dpi}`],
    ['Passes', (one) => `${one.passes}, ${one.direction}`],
    ['Quality', (one) => one.quality],
    ['Drops', (one) => `${one.drops.join(', ')} pl`],
    ['Speed', (one) => `${one.speedM2PerH} m²/h`],
    ['Most ink, to begin with', (one) => `${Math.round(one.limits.total * 100)} %`],
    ['Printed in it', (one) => `${one.used} times`]
  ];
</script>

<div class="grid h-full min-h-0 grid-cols-[12.5rem_1fr_18rem] 2xl:grid-cols-[16rem_1fr_24rem]">
  <form
    class="border-base-300 min-h-0 space-y-3 overflow-y-auto border-r p-3 text-sm"
    aria-label="Narrow down"
    onsubmit={(event) => event.preventDefault()}
  >
    {#each Object.entries(FACET_WORDS) as [facet, words] (facet)}
      <fieldset>
        <legend class="panel-title">{words}</legend>
        <ul>
          {#each result.counts[facet as Facet] as { value, count } (value)}
            {@const on = chosen[facet as Facet] === value}
            <li>
              <button
                type="button"
                class="flex min-h-[24px] w-full items-center justify-between rounded px-1.5 text-left {on
                  ? 'bg-primary text-primary-content font-semibold'
                  : 'hover:bg-base-300'} disabled:opacity-50"
                aria-pressed={on}
                disabled={count === 0 && !on}
                onclick={() => choose(facet as Facet, value)}
                ><span>{value}{facet === 'dpi' ? ' dpi' : ''}</span><span class="tabular-nums"
                  >{count === 0 ? 'none' : count}</span
                ></button
              >
            </li>
          {/each}
        </ul>
      </fieldset>
    {/each}
  </form>
  <div class="flex min-h-0 flex-col">
    <div class="flex flex-wrap items-center gap-3 p-3">
      <h1 class="sr-only">Find a print mode</h1>
      <input
        class="input input-sm w-72"
        type="search"
        placeholder="gloss white, 720, fine …"
        aria-label="Find print modes"
        bind:value={text}
      />
      <span role="status"><span class="font-semibold">{result.found.length}</span> of {data.modes.length} modes</span>
      {#if text || Object.values(chosen).some((value) => value !== undefined)}
        <button class="btn btn-xs" onclick={() => ((text = ''), (chosen = {}))}>Show all again</button>
      {/if}
      <label class="ml-auto text-sm"
        >First <select class="select select-sm inline-flex w-32" bind:value={order}
          ><option value="used">most used</option><option value="speed">fastest</option><option value="dpi">finest</option
          ></select
        ></label
      >
    </div>
    <div class="min-h-0 grow overflow-y-auto">
      <table class="table-pin-rows table-xs table text-sm">
        <thead
          ><tr
            ><th>Pin</th><th>Mode</th><th>Machine, inks</th><th>Media</th><th>Quality</th><th class="text-right">m²/h</th><th
              class="text-right">{data.docket ? data.docket.name.slice(0, 22) : 'A square metre'}</th
            ><th>Compare</th></tr
          ></thead
        >
        <tbody>
          {#each sorted.slice(0, MOST_SHOWN) as one (one.code)}
            {@const priced = cost(one)}
            <tr class={one.code === mode?.code ? 'bg-base-300' : 'hover:bg-base-200'}>
              <td
                ><button
                  class="btn btn-xs btn-ghost btn-square"
                  aria-pressed={one.pinned}
                  aria-label="{one.pinned ? 'Let go of' : 'Pin'} {one.name} for {one.family} on {one.machine}"
                  onclick={() => pin(one)}><Pin size={14} fill={one.pinned ? 'currentColor' : 'none'} /></button
                ></td
              >
              <td
                ><button class="text-left font-semibold whitespace-nowrap hover:underline" onclick={() => (picked = one.code)}
                  >{one.name}</button
                >{#if one.profile === 'yes'}<span class="ml-1 text-xs">✓ profiled</span>{/if}</td
              >
              <td class={one.here ? '' : 'text-base-content/60'}
                >{one.machine}, {one.inkSet}{one.here ? '' : ', not in this shop'}</td
              >
              <td>{one.family}</td>
              <td>{one.quality}</td>
              <td class="text-right">{one.speedM2PerH}</td>
              <td class="text-right">{duration(priced.minutes * 60)}, ink {money(priced.inkCost)}</td>
              <td
                ><input
                  type="checkbox"
                  class="checkbox checkbox-sm"
                  aria-label="Compare {one.name} for {one.family} on {one.machine}"
                  checked={compared.includes(one.code)}
                  onchange={() => compare(one.code)}
                /></td
              >
            </tr>
          {:else}
            <tr
              ><td colspan="8" class="p-6"
                >{data.modes.length === 0
                  ? 'No print modes yet. A printer gives its own when it is added under Shop.'
                  : 'No mode fits all of this. Take a choice back on the left, or shorten the text.'}</td
              ></tr
            >
          {/each}
        </tbody>
      </table>
      {#if sorted.length > MOST_SHOWN}<p class="p-3 text-sm">{sorted.length - MOST_SHOWN} more: narrow down on the left.</p>{/if}
    </div>
  </div>
  <aside class="border-base-300 min-h-0 space-y-4 overflow-y-auto border-l p-4 text-sm" aria-label="The mode">
    {#if compared.length === 2}
      {@const [p, q] = compared.map((code) => modes.find((one) => one.code === code))}
      {#if p && q}
        <h2 class="font-semibold">Compared</h2>
        <table class="w-full">
          <thead><tr class="text-left"><td></td><th scope="col">{p.name}</th><th scope="col">{q.name}</th></tr></thead>
          <tbody>
            {#each ROWS as [words, say] (words)}
              <tr class="border-base-300 border-b align-top {say(p) === say(q) ? 'text-base-content/70' : 'font-semibold'}"
                ><th scope="row" class="py-0.5 pr-2 text-left font-normal">{words}</th><td class="pr-2">{say(p)}</td><td
                  >{say(q)}</td
                ></tr
              >
            {/each}
            <tr class="font-semibold"
              ><th scope="row" class="text-left font-normal">{data.docket ? 'This docket' : 'A square metre'}</th><td
                >{duration(cost(p).minutes * 60)}, {money(cost(p).inkCost)}</td
              ><td>{duration(cost(q).minutes * 60)}, {money(cost(q).inkCost)}</td></tr
            >
          </tbody>
        </table>
        <button class="btn btn-xs" onclick={() => (compared = [])}>End comparing</button>
      {/if}
    {/if}
    {#if mode}
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
          For {data.docket.name}: {area.toFixed(2)} m², {duration(cost(mode).minutes * 60)}, media {money(
            area * media.costPerM2
          )}, ink about {money(cost(mode).inkCost)} at usual coverage.
        </p>
      {/if}
    {/if}
    <button class="btn btn-primary btn-sm w-full" disabled={!!hindrance} onclick={take}
      >{data.docket ? 'Print the docket in this mode' : 'Make this a condition'}</button
    >
    {#if hindrance}<p>{hindrance}</p>{/if}
  </aside>
</div>
