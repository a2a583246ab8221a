<script lang="ts">
  import { describe } from '$core/charts/check-readings';
  import type { Chart, StepResult } from '$lib/calibration';
  import Plot from '$lib/ui/common/Plot.svelte';
  import { attempt, send } from '$lib/ui/common/client';
  import ChartWork from './ChartWork.svelte';
  import { isGood, screenColour } from './show';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';

  let {
    conditionId,
    chart,
    result,
    needs
  }: { conditionId: number; chart: Chart | undefined; result: StepResult<'verify'> | undefined; needs: string | undefined } =
    $props();

  let patches = $state(60);
  const read = $derived(!!chart && chart.layout.patches.every((patch) => chart.readings[patch.id]));
  const taken = $derived(!!result && result.chartId === chart?.id);
  const take = () =>
    attempt(() => send('POST', `/api/conditions/${conditionId}/steps`, { step: 'verify', chartId: chart?.id }), 'Verified.');
  const worst = $derived(result ? [...result.document.patches].sort((p, q) => q.deltaE - p.deltaE) : []);
</script>

<label class="block text-sm"
  >Fresh patches, which were in no chart <FigureBox
    class="input input-sm w-20 text-right"
    label="Fresh patches"
    min={12}
    max={300}
    step={12}
    value={patches}
    onchange={(count) => (patches = count)}
  /></label
>
<ChartWork {conditionId} request={{ kind: 'verify', patches }} {chart} {needs} again={!!result} />
{#if read && chart}
  <button class="btn btn-primary btn-sm" disabled={taken || !isGood(chart)} onclick={take}
    >{taken ? 'Verified with this chart' : 'Verify'}</button
  >
{/if}
{#if result}
  {@const { document } = result}
  <section aria-label="Verification" class="space-y-3">
    <div class="flex flex-wrap items-end gap-x-8 gap-y-2">
      <p class="measure {document.pass ? 'text-success' : 'text-error'}">{document.pass ? '✓ Passed' : '✗ Not passed'}</p>
      <dl class="flex gap-x-8">
        {#each [['mean', document.mean, document.tolerance.mean], ['95 % within', document.p95, document.tolerance.p95], ['worst', document.worst, undefined]] as const as [words, value, most] (words)}
          <div>
            <dt class="text-sm">{words}{most === undefined ? '' : `, at most ${most}`}</dt>
            <dd class="measure">ΔE00 {value.toFixed(2)}</dd>
          </div>
        {/each}
      </dl>
      <a class="btn btn-sm" href="/api/conditions/{conditionId}/report">Report as PDF</a>
    </div>
    <div class="grid grid-cols-[1fr_24rem] gap-8">
      <Plot
        label="How many patches are how far off"
        data={[{ type: 'histogram', x: document.patches.map(({ deltaE }) => deltaE), marker: { color: '#888888' }, nbinsx: 24 }]}
        layout={{ xaxis: { title: { text: 'ΔE00' }, rangemode: 'tozero' }, yaxis: { title: { text: 'patches' } }, bargap: 0.1 }}
      />
      <table class="table-xs table">
        <thead><tr><th>Farthest off</th><th>asked for, measured</th><th>Inks</th><th class="text-right">ΔE00</th></tr></thead>
        <tbody>
          {#each worst.slice(0, 9) as patch (patch.id)}
            <tr>
              <td>{patch.id}</td>
              <td
                ><span class="flex"
                  ><span class="h-4 w-8" style:background={screenColour(patch.asked)}></span><span
                    class="h-4 w-8"
                    style:background={screenColour(patch.lab)}
                  ></span></span
                ></td
              >
              <td>{describe(patch.inks)}</td>
              <td class="text-right">{patch.deltaE.toFixed(2)}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  </section>
{/if}
