<script lang="ts">
  import type { Chart, StepResult } from '$lib/calibration';
  import Plot from '$lib/ui/common/Plot.svelte';
  import { attempt, send } from '$lib/ui/common/client';
  import ChartWork from './ChartWork.svelte';
  import { isGood, percent } from './show';
  import PercentBox from '$lib/ui/common/PercentBox.svelte';

  let {
    conditionId,
    chart,
    result,
    usual,
    needs
  }: {
    conditionId: number;
    chart: Chart | undefined;
    result: StepResult<'total'> | undefined;
    /** What the mode's maker starts with. */
    usual: number;
    needs: string | undefined;
  } = $props();

  type Key = 'total' | 'red' | 'green' | 'blue';
  /** Shares that are chosen here; null where there is to be none. */
  let own = $state<Partial<Record<Key, number | null>>>({});
  const read = $derived(!!chart && chart.layout.patches.every((patch) => chart.readings[patch.id]));
  const taken = $derived(!!result && result.chartId === chart?.id);
  const COLOURS = { all: '#808080', black: '#505050', red: '#c9372c', green: '#2e8b3d', blue: '#2f55c4' };
  const WORDS = { all: 'all inks together', black: 'colours under full black', red: 'reds', green: 'greens', blue: 'blues' };
  const limit = (key: Key): number | null => (own[key] === undefined ? (result?.document.limits[key] ?? null) : own[key]);
  const suggested = $derived(
    result
      ? Math.max(...result.document.series.filter((s) => s.series === 'all' || s.series === 'black').map((s) => s.suggested))
      : undefined
  );

  async function take(): Promise<void> {
    const limits = Object.fromEntries(
      (['total', 'red', 'green', 'blue'] as const).flatMap((key) => (limit(key) === null ? [] : [[key, limit(key)]]))
    );
    if (
      await attempt(
        () => send('POST', `/api/conditions/${conditionId}/steps`, { step: 'total', chartId: chart?.id, ...limits }),
        'This limit counts now.'
      )
    )
      own = {};
  }
</script>

<ChartWork {conditionId} request={{ kind: 'total' }} {chart} {needs} again={!!result} />
{#if result}
  <div class="grid grid-cols-[1fr_16rem] gap-8">
    <Plot
      label="Darkness, and colour of pairs, by ink in all; suggested {percent(suggested ?? 0)}"
      height={300}
      data={result.document.series.map((series) => ({
        x: series.steps.map(({ total }) => total * 100),
        y: series.steps.map(({ value }) => value),
        mode: 'lines+markers' as const,
        marker: { size: 5 },
        line: { color: COLOURS[series.series], dash: series.series === 'black' ? ('dash' as const) : ('solid' as const) },
        name: WORDS[series.series]
      }))}
      layout={{
        showlegend: true,
        legend: { x: 0.62, y: 0.05, bgcolor: 'rgba(0,0,0,0)' },
        xaxis: { title: { text: 'ink in all, %' } },
        yaxis: { title: { text: 'darkness; ΔE of pairs' } },
        shapes: [
          {
            type: 'line',
            x0: result.document.limits.total * 100,
            x1: result.document.limits.total * 100,
            y0: 0,
            y1: 1,
            yref: 'paper',
            line: { color: '#888888', width: 2 }
          }
        ]
      }}
    />
    <div class="space-y-1 text-sm">
      <p>
        Suggested <span class="measure">{percent(suggested ?? 0)}</span>; the mode starts with {percent(usual)}.
      </p>
      <ul>
        {#each result.document.series as series (series.series)}
          <li><span class="font-semibold">{WORDS[series.series]}</span>: {series.why}</li>
        {/each}
      </ul>
    </div>
  </div>
{/if}
{#if read && chart}
  <form
    class="flex flex-wrap items-end gap-3 text-sm"
    onsubmit={(event) => {
      event.preventDefault();
      void take();
    }}
    aria-label="Total ink limit"
  >
    {#each [['total', 'Most ink in all'], ['red', 'Reds (M + Y)'], ['green', 'Greens (C + Y)'], ['blue', 'Blues (C + M)']] as const as [key, words] (key)}
      <label
        >{words}, %<PercentBox
          block
          class="input input-sm w-28 text-right"
          label="{words}, %"
          min={key === 'total' ? 0.8 : 0.4}
          max={key === 'total' ? 4 : 2}
          step={5}
          placeholder={key === 'total' ? 'as suggested' : 'no own limit'}
          share={limit(key)}
          onchange={(share) => (own[key] = share)}
          onempty={() => (own[key] = null)}
        /></label
      >
    {/each}
    <button class="btn btn-primary btn-sm" disabled={!isGood(chart) || (taken && Object.keys(own).length === 0)}
      >{taken && Object.keys(own).length === 0 ? 'This limit counts' : 'Use this limit'}</button
    >
  </form>
{/if}
