<script lang="ts">
  import { suggestLimit } from '$core/calibration/channel-limits';
  import { laddersOf } from '$core/calibration/ladders';
  import type { Chart, LimitsResult, StepResult } from '$lib/calibration';
  import Plot from '$lib/ui/common/Plot.svelte';
  import { attempt, send } from '$lib/ui/common/client';
  import ChartWork from './ChartWork.svelte';
  import { INK_LINES, percent } from './show';
  import PercentBox from '$lib/ui/common/PercentBox.svelte';

  let {
    conditionId,
    chart,
    result
  }: { conditionId: number; chart: Chart | undefined; result: StepResult<'limits'> | undefined } = $props();

  /** What the readings suggest, at once; the server says the same when the step is taken. */
  const suggested = $derived.by(() => {
    if (!chart || chart.findings.length > 0 || chart.layout.patches.some((patch) => !chart.readings[patch.id])) return undefined;
    try {
      const measured = chart.layout.patches.map((patch) => ({ patch, lab: chart.readings[patch.id]! }));
      return laddersOf(measured).map((ladder) => ({ ladder, ...suggestLimit(ladder) }));
    } catch {
      return undefined;
    }
  });
  const channels = $derived<LimitsResult['channels'] | undefined>(
    result && result.chartId === chart?.id
      ? result.document.channels
      : suggested?.map(({ ladder, limit, why, gains }) => ({
          name: ladder.name,
          suggested: limit,
          chosen: limit,
          why,
          gains,
          steps: ladder.steps
        }))
  );
  let own = $state<Record<string, number>>({});
  const chosen = (channel: LimitsResult['channels'][number]) => own[channel.name] ?? channel.chosen;
  const taken = $derived(result && result.chartId === chart?.id && !channels?.some((c) => chosen(c) !== c.chosen));

  const take = () =>
    attempt(async () => {
      await send('POST', `/api/conditions/${conditionId}/steps`, {
        step: 'limits',
        chartId: chart?.id,
        channels: channels?.map(chosen)
      });
      own = {};
    }, 'These limits count now.');
</script>

<ChartWork {conditionId} request={{ kind: 'limits' }} {chart} needs={undefined} again={!!result} />
{#if channels}
  <div class="grid grid-cols-2 gap-x-8 gap-y-4 2xl:grid-cols-4">
    {#each channels as channel (channel.name)}
      <section aria-label="Limit of {channel.name}">
        <div class="flex items-baseline gap-2">
          <h3 class="font-semibold capitalize">{channel.name}</h3>
          <PercentBox
            class="input input-sm w-20 text-right"
            label="Limit of {channel.name}, per cent"
            min={0.2}
            share={chosen(channel)}
            onchange={(share) => (own[channel.name] = share)}
          />%
          <span class="text-sm">suggested {percent(channel.suggested)}: {channel.why}</span>
        </div>
        <Plot
          label="{channel.name}: ΔE from the media by ink, reaching {channel.steps.at(-1)?.distance.toFixed(0)} at the fullest"
          height={190}
          data={[
            {
              x: channel.steps.map(({ share }) => share * 100),
              y: channel.steps.map(({ distance }) => distance),
              mode: 'lines+markers',
              line: { color: INK_LINES[channel.name as 'cyan'] },
              marker: { size: 5 },
              name: 'ΔE from the media'
            },
            {
              x: channel.steps.slice(1).map(({ share }) => share * 100),
              y: channel.gains,
              yaxis: 'y2',
              mode: 'lines',
              line: { color: '#888888', dash: 'dot' },
              name: 'ΔE gained a 5 % of ink'
            }
          ]}
          layout={{
            xaxis: { title: { text: 'ink, %' }, range: [0, 101] },
            yaxis: { title: { text: 'ΔE from the media' }, rangemode: 'tozero' },
            yaxis2: {
              overlaying: 'y',
              side: 'right',
              title: { text: 'gain' },
              tickmode: 'auto',
              nticks: 5,
              rangemode: 'tozero',
              showgrid: false
            },
            margin: { l: 48, r: 44, t: 6, b: 36 },
            shapes: [
              {
                type: 'line',
                x0: chosen(channel) * 100,
                x1: chosen(channel) * 100,
                y0: 0,
                y1: 1,
                yref: 'paper',
                line: { color: '#888888', width: 2 }
              }
            ]
          }}
        />
      </section>
    {/each}
  </div>
  <button class="btn btn-primary btn-sm" disabled={!!taken} onclick={take}
    >{taken ? 'These limits count' : 'Use these limits'}</button
  >
{/if}
