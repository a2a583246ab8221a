<script lang="ts">
  import { untrack } from 'svelte';
  import { Handling, HANDLING_WORDS, type Handling as Figures, type MediaCard } from '$core/media/card';
  import { boundsOf } from '$core/units/bounds';
  import { checkHandling, suggestHandling, type HandlingTable } from '$core/media/handling';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';

  /** How each machine handles a media, beside what that machine suggests. */
  let {
    card,
    locked,
    tables,
    onchange
  }: {
    card: MediaCard;
    locked: boolean;
    tables: readonly HandlingTable[];
    onchange: (handling: MediaCard['handling']) => void;
  } = $props();

  const all = $derived(card.handling);
  let machine = $state(untrack(() => Object.keys(card.handling)[0] ?? tables[0]?.machine ?? ''));
  const table = $derived(tables.find((one) => one.machine === machine));
  const row = $derived(table && suggestHandling(table, card.family, card.thicknessMm));
  const looks = $derived(tables.flatMap((one) => checkHandling(one, card)));
  const handling = $derived(all[machine]);
  function set(key: keyof Figures, value: unknown): void {
    if (handling) onchange({ ...all, [machine]: { ...handling, [key]: value } });
  }
</script>

<section class="space-y-3" aria-label="Handling">
  <div class="flex items-center gap-3">
    <h2 class="text-lg font-semibold">Handling</h2>
    <div class="join">
      {#each [...new Set([...Object.keys(all), ...tables.map((one) => one.machine)])] as one (one)}
        <button
          class="btn btn-sm join-item {one === machine ? 'btn-active' : ''}"
          aria-pressed={one === machine}
          onclick={() => (machine = one)}>{one}</button
        >
      {/each}
    </div>
    {#if handling && !locked}
      <button
        class="btn btn-sm btn-ghost"
        onclick={() => {
          onchange(Object.fromEntries(Object.entries(all).filter(([name]) => name !== machine)));
        }}>Not for this machine</button
      >
    {/if}
  </div>
  {#if handling}
    <table class="table-sm table max-w-3xl">
      <thead><tr><th>Setting</th><th>Here</th><th>{machine} suggests</th><th>Usual</th><th></th></tr></thead>
      <tbody>
        {#each Object.entries(HANDLING_WORDS) as [key, { words, unit, step }] (key)}
          {@const value = handling[key as keyof Figures]}
          {@const suggested = row?.handling[key as keyof Figures]}
          {@const usual = row?.usual[key as keyof Figures]}
          {@const look = looks.find((one) => one.machine === machine && one.field === key)}
          <tr class={look ? 'bg-warning/15' : ''}>
            <th scope="row" class="font-normal">{words}</th>
            <td>
              {#if typeof value === 'number'}
                {@const bounds = boundsOf(Handling.shape[key as keyof Figures])}
                <FigureBox
                  class="input input-xs w-20 text-right"
                  late
                  label={words}
                  {unit}
                  decimals={2}
                  {...bounds}
                  {step}
                  {value}
                  disabled={locked}
                  onchange={(figure) => set(key as keyof Figures, figure)}
                />
                {unit}
              {:else if typeof value === 'boolean'}
                <input
                  type="checkbox"
                  class="checkbox checkbox-sm"
                  checked={value}
                  disabled={locked}
                  aria-label={words}
                  onchange={(event) => set(key as keyof Figures, event.currentTarget.checked)}
                />
              {:else}
                <select
                  class="select select-xs w-36"
                  {value}
                  disabled={locked}
                  aria-label={words}
                  onchange={(event) => set(key as keyof Figures, event.currentTarget.value)}
                >
                  {#each key === 'cutOff' ? ['blade', 'by hand', 'none'] : ['off', 'print side in', 'print side out'] as one (one)}<option
                      >{one}</option
                    >{/each}
                </select>
              {/if}
            </td>
            <td
              >{suggested === undefined
                ? ''
                : typeof suggested === 'boolean'
                  ? suggested
                    ? 'yes'
                    : 'no'
                  : `${suggested} ${unit}`}</td
            >
            <td>{usual ? `${usual[0]} – ${usual[1]} ${unit}` : ''}</td>
            <td class="text-warning">{look ? 'look' : ''}</td>
          </tr>
        {/each}
      </tbody>
    </table>
    {#each looks.filter((one) => one.machine === machine) as look (look.field)}<p class="text-sm">{look.text}</p>{/each}
  {:else if table}
    <p>
      This media is not for {machine} yet.
      {#if !locked}<button
          class="btn btn-sm btn-primary"
          disabled={!row}
          onclick={() => {
            if (row) onchange({ ...all, [machine]: { ...row.handling } });
          }}>Take what {machine} suggests</button
        >{/if}
      {row ? '' : `${machine} has no suggestion for ${card.family} of ${card.thicknessMm} mm.`}
    </p>
  {:else}
    <p>No machine in the shop yet. A printer brings its table of suggestions when it is added.</p>
  {/if}
  {#if table}
    <details>
      <summary class="cursor-pointer text-sm">The whole table of {machine}</summary>
      <table class="table-xs table max-w-4xl">
        <thead
          ><tr
            ><th>Families</th><th>Thickness, mm</th
            >{#each ['headGapMm', 'vacuumPercent', 'feedTensionN', 'platenHeatC', 'dryHeatC', 'marginMm'] as const as key (key)}<th
                class="text-right">{HANDLING_WORDS[key].words}, {HANDLING_WORDS[key].unit}</th
              >{/each}</tr
          ></thead
        >
        <tbody>
          {#each table.rows as one (one)}
            <tr class={one === row ? 'bg-base-300 font-semibold' : ''}
              ><td>{one.families.join(', ')}</td><td>{one.thickness[0]} – {one.thickness[1]}</td
              >{#each ['headGapMm', 'vacuumPercent', 'feedTensionN', 'platenHeatC', 'dryHeatC', 'marginMm'] as const as key (key)}<td
                  class="text-right">{one.handling[key]}</td
                >{/each}</tr
            >
          {/each}
        </tbody>
      </table>
    </details>
  {/if}
</section>
