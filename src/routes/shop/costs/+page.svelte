<script lang="ts">
  import type { Data } from 'plotly.js-dist-min';
  import { goto } from '$app/navigation';
  import { counted } from '$core/units/counted';
  import { areaUnit, formatFigure, longUnit, MM_PER } from '$core/units/length';
  import type { DayOfMedia } from '$lib/server/printing/costs';
  import Plot from '$lib/ui/common/Plot.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  type Figure = 'metres' | 'm2' | 'inkMl' | 'wasteM2';
  const long = $derived(longUnit(data.settings.unit));
  const area = $derived(areaUnit(data.settings.unit));
  /** A figure as it is shown: lengths and areas in what the shop takes for long things. */
  const inUnit = (figure: Figure, value: number): number =>
    figure === 'metres' ? (value * 1000) / MM_PER[long] : figure === 'inkMl' ? value : value / area.m2;
  const media = $derived([...new Set(data.days.map((day) => day.media))].sort());
  const sum = (rows: readonly DayOfMedia[], figure: keyof Omit<DayOfMedia, 'day' | 'media'>) =>
    rows.reduce((total, row) => total + row[figure], 0);
  const totals = $derived(
    media.map((name) => {
      const rows = data.days.filter((day) => day.media === name);
      return {
        name,
        prints: sum(rows, 'prints'),
        metres: sum(rows, 'metres'),
        m2: sum(rows, 'm2'),
        wasteM2: sum(rows, 'wasteM2'),
        inkMl: sum(rows, 'inkMl'),
        hours: sum(rows, 'hours'),
        cost: sum(rows, 'mediaCost') + sum(rows, 'inkCost') + sum(rows, 'timeCost')
      };
    })
  );
  const CHARTS: { figure: Figure; words: string; unit: string }[] = $derived([
    { figure: 'metres', words: 'Length printed', unit: long },
    { figure: 'm2', words: 'Media used', unit: area.name },
    { figure: 'inkMl', words: 'Ink', unit: 'ml' },
    { figure: 'wasteM2', words: 'Waste', unit: area.name }
  ]);
  /** Greys and hatches tell media apart without colour. */
  const SHAPES = ['', '/', 'x', '.', '-', '|', '+', '\\'];
  const bars = (figure: Figure): Data[] =>
    media.map((name, i) => {
      const rows = data.days.filter((day) => day.media === name);
      return {
        type: 'bar' as const,
        name,
        x: rows.map((row) => row.day),
        width: 86_400_000 * 0.7,
        y: rows.map((row) => inUnit(figure, row[figure])),
        marker: { color: `hsl(0 0% ${30 + ((i * 23) % 50)}%)`, pattern: { shape: SHAPES[i % SHAPES.length] ?? '' } }
      } as Data;
    });
  /** Days from the first to the last, so that few are not drawn as broad as a month. */
  const span = $derived((Date.parse(data.days.at(-1)?.day ?? '') - Date.parse(data.days[0]?.day ?? '')) / 86_400_000 || 0);
  const spoken = (figure: Figure, unit: string) =>
    media
      .map(
        (name) =>
          `${name} ${formatFigure(
            inUnit(
              figure,
              sum(
                data.days.filter((day) => day.media === name),
                figure
              )
            ),
            1
          )} ${unit}`
      )
      .join(', ');
  const money = (v: number) => `${data.settings.currency}${v.toFixed(2)}`;
  const all = $derived({
    m2: sum(data.days, 'm2'),
    wasteM2: sum(data.days, 'wasteM2'),
    metres: sum(data.days, 'metres'),
    inkMl: sum(data.days, 'inkMl'),
    cost: totals.reduce((total, one) => total + one.cost, 0)
  });
</script>

<svelte:head><title>Costs</title></svelte:head>
<div class="space-y-5 p-6">
  <header class="flex flex-wrap items-center gap-3">
    <h1 class="text-lg font-semibold">What was printed, and what it cost</h1>
    <label class="flex items-center gap-2 text-sm"
      >in the last
      <select
        class="select select-sm w-32"
        aria-label="Weeks looked back on"
        value={String(data.weeks)}
        onchange={(event) => goto(`?weeks=${event.currentTarget.value}`, { keepFocus: true })}
      >
        {#each [1, 4, 13, 52] as weeks (weeks)}<option value={String(weeks)}>{counted(weeks, 'week')}</option>{/each}
      </select></label
    >
    <a class="btn btn-sm ml-auto" href="/api/report?weeks={data.weeks}&as=csv" download>Docket by docket, as CSV</a>
  </header>
  {#if data.days.length === 0}
    <p class="max-w-prose">
      Nothing was printed in this time. Each print is written down here with its length, area, ink and waste when it ends.
    </p>
  {:else}
    <dl class="flex flex-wrap gap-10">
      <div>
        <dt class="panel-title">Length</dt>
        <dd class="measure">{formatFigure(inUnit('metres', all.metres), 1)} {long}</dd>
      </div>
      <div>
        <dt class="panel-title">Media</dt>
        <dd class="measure">{formatFigure(inUnit('m2', all.m2), 1)} {area.name}</dd>
      </div>
      <div>
        <dt class="panel-title">Waste</dt>
        <dd class="measure">{formatFigure(inUnit('wasteM2', all.wasteM2), 1)} {area.name}</dd>
        <dd class="text-xs">{all.m2 > 0 ? Math.round((100 * all.wasteM2) / all.m2) : 0} % of it</dd>
      </div>
      <div>
        <dt class="panel-title">Ink</dt>
        <dd class="measure">{formatFigure(all.inkMl, 0)} ml</dd>
      </div>
      <div>
        <dt class="panel-title">Cost</dt>
        <dd class="measure">{money(all.cost)}</dd>
      </div>
    </dl>
    <div class="grid gap-4 lg:grid-cols-2">
      {#each CHARTS as { figure, words, unit } (figure)}
        <section aria-label={words}>
          <h2 class="panel-title">{words}, {unit} a day</h2>
          <Plot
            data={bars(figure)}
            layout={{
              barmode: 'stack',
              xaxis: { type: 'date', tickformat: '%-d %b', dtick: span > 60 ? 'M1' : span > 15 ? 604_800_000 : 86_400_000 },
              bargap: 0.3,
              showlegend: figure === 'metres'
            }}
            height={210}
            label="{words} by day and media: {spoken(figure, unit)}"
          />
        </section>
      {/each}
    </div>
    <table class="table-sm table">
      <thead
        ><tr
          ><th>Media</th><th class="text-right">Prints</th><th class="text-right">Length</th><th class="text-right">Media</th><th
            class="text-right">Waste</th
          ><th class="text-right">Ink</th><th class="text-right">Hours</th><th class="text-right">Cost</th></tr
        ></thead
      >
      <tbody>
        {#each totals as one (one.name)}
          <tr>
            <td class="font-semibold">{one.name}</td>
            <td class="text-right">{one.prints}</td>
            <td class="text-right">{formatFigure(inUnit('metres', one.metres), 2)} {long}</td>
            <td class="text-right">{formatFigure(inUnit('m2', one.m2), 2)} {area.name}</td>
            <td class="text-right"
              >{formatFigure(inUnit('wasteM2', one.wasteM2), 2)}
              {area.name}, {one.m2 > 0 ? Math.round((100 * one.wasteM2) / one.m2) : 0} %</td
            >
            <td class="text-right">{formatFigure(one.inkMl, 1)} ml</td>
            <td class="text-right">{formatFigure(one.hours, 2)}</td>
            <td class="text-right font-semibold">{money(one.cost)}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</div>
