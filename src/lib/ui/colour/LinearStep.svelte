<script lang="ts">
  import type { Chart, EvenLadder, StepResult } from '$lib/calibration';
  import Plot from '$lib/ui/common/Plot.svelte';
  import { attempt, send } from '$lib/ui/common/client';
  import type { ToneGrain } from '$core/calibration/tone-grain';
  import type { InkSet } from '$core/inks/ink-set';
  import Division from './Division.svelte';
  import ChartWork from './ChartWork.svelte';
  import { INK_LINES, isGood } from './show';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';

  let {
    conditionId,
    chart,
    checkChart,
    result,
    check,
    needs,
    inks,
    grain
  }: {
    conditionId: number;
    chart: Chart | undefined;
    checkChart: Chart | undefined;
    result: StepResult<'linear'> | undefined;
    check: StepResult<'linear check'> | undefined;
    needs: string | undefined;
    inks: InkSet;
    grain: Promise<ToneGrain[]>;
  } = $props();

  let evenness = $state<'distance' | 'chroma'>('distance');
  let steps = $state(26);
  const read = (one: Chart | undefined) => !!one && one.layout.patches.every((patch) => one.readings[patch.id]);
  const taken = $derived(result && result.chartId === chart?.id);
  // The check is of the linearisation that counts now.
  const checking = $derived(checkChart && !checkChart.isOld ? checkChart : undefined);
  const checked = $derived(check && check.chartId === checking?.id);

  const take = () =>
    attempt(
      () => send('POST', `/api/conditions/${conditionId}/steps`, { step: 'linear', chartId: chart?.id, evenness }),
      'Linearised. A second print tells how straight it is.'
    );
  const takeCheck = () =>
    attempt(
      () => send('POST', `/api/conditions/${conditionId}/steps`, { step: 'linear check', chartId: checking?.id }),
      'Checked.'
    );

  const lines = (ladders: EvenLadder[]) =>
    ladders.map((ladder) => ({
      x: ladder.shares.map((share) => (100 * share) / (ladder.shares.at(-1) ?? 1)),
      y: ladder.departures,
      mode: 'lines+markers' as const,
      line: { color: INK_LINES[ladder.name as 'cyan'] },
      marker: { size: 4 },
      name: ladder.name
    }));
</script>

<div class="flex flex-wrap items-center gap-4 text-sm">
  <label
    >Even in <select class="select select-sm inline-flex w-52" bind:value={evenness} aria-label="What rises evenly"
      ><option value="distance">ΔE from the media</option><option value="chroma">chroma (black: ΔE)</option></select
    ></label
  >
  <label
    >Steps <FigureBox
      class="input input-sm w-16 text-right"
      label="Steps of each ladder"
      min={21}
      max={51}
      value={steps}
      onchange={(count) => (steps = count)}
    /> in two places each</label
  >
</div>
<ChartWork {conditionId} request={{ kind: 'linear', steps }} {chart} {needs} again={!!result} />
{#if chart && read(chart)}
  <button class="btn btn-primary btn-sm" disabled={!!taken || !isGood(chart)} onclick={take}
    >{taken ? 'Linearised with this chart' : 'Linearise'}</button
  >
{/if}
{#if result}
  <div class="grid grid-cols-2 gap-8">
    <section aria-label="Before">
      <h3 class="font-semibold">
        Before: <span class="measure">{Math.max(...result.document.before.map(({ worst }) => worst)).toFixed(1)} %</span> from straight
        at most
      </h3>
      <Plot
        label="How far each ink was from rising evenly, before"
        data={lines(result.document.before)}
        layout={{ xaxis: { title: { text: 'ink, % of its limit' } }, yaxis: { title: { text: 'from straight, %' } } }}
      />
    </section>
    <section aria-label="After">
      <h3 class="font-semibold">
        {#if check && !check.stale}After: <span class="measure">{check.document.worst.toFixed(1)} %</span> at most{:else}The
          curves{/if}
      </h3>
      {#if check && !check.stale}
        <Plot
          label="How far each ink is from rising evenly, after: {check.document.worst.toFixed(1)} % at most"
          data={lines(check.document.after)}
          layout={{
            xaxis: { title: { text: 'value, %' } },
            yaxis: {
              title: { text: 'from straight, %' },
              range: [-Math.max(2, check.document.worst * 1.2), Math.max(2, check.document.worst * 1.2)]
            }
          }}
        />
      {:else}
        <Plot
          label="The curves: ink by value"
          data={result.document.curves.map((curve, i) => ({
            x: curve.map((_, v) => (v / 255) * 100),
            y: curve.map((share) => share * 100),
            mode: 'lines' as const,
            line: { color: Object.values(INK_LINES)[i] ?? '#888888' }
          }))}
          layout={{ xaxis: { title: { text: 'value, %' } }, yaxis: { title: { text: 'ink, %' } } }}
        />
      {/if}
    </section>
  </div>
  {#if inks.some(({ role }) => role === 'light')}<Division {inks} curves={result.document.curves} {grain} />{/if}
  <section aria-label="Second print" class="space-y-3">
    <h3 class="font-semibold">Second print: how straight it is now</h3>
    <ChartWork {conditionId} request={{ kind: 'linear check' }} chart={checking} needs={undefined} again={!!check} />
    {#if checking && read(checking)}
      <button class="btn btn-primary btn-sm" disabled={!!checked || !isGood(checking)} onclick={takeCheck}
        >{checked ? 'Checked with this chart' : 'Check the linearisation'}</button
      >
    {/if}
  </section>
{/if}
