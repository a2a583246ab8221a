<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { describe } from '$core/charts/check-readings';
  import type { Chart } from '$lib/calibration';
  import { NOTES, WORTH_CORRECTING, type WatchAct, type WatchState } from '$lib/watch';
  import Plot from '$lib/ui/common/Plot.svelte';
  import { attempt, Refusal, send } from '$lib/ui/common/client';
  import { early } from '$lib/ui/common/early';
  import ChartWork from './ChartWork.svelte';
  import { day, INK_LINES, isGood } from './show';
  import Swatches from './Swatches.svelte';
  import { tape, widthOf } from '$lib/ui/common/shop-unit';

  /** A condition over time: its baseline, what is read later, the curves that bring it back. */
  let {
    conditionId,
    watch,
    due,
    others,
    ready
  }: {
    conditionId: number;
    watch: WatchState;
    due: string | undefined;
    others: readonly { id: number; name: string }[];
    ready: boolean;
  } = $props();

  let what = $state<(typeof NOTES)[number]>('service');
  let from = $state(0);
  let isNew = $state(false);

  const { baseline, drifts, charts } = $derived(watch);
  const drift = $derived(drifts.findLast(({ isOfNow }) => isOfNow));
  const needs = $derived(ready ? undefined : 'First its profile is made: there is nothing to hold a reading against.');
  const isRead = (chart: Chart | null) => !!chart && chart.layout.patches.every(({ id }) => chart.readings[id]);
  const isCompared = $derived(!!charts.compare && drifts.some(({ chartId }) => chartId === charts.compare?.id));
  const isKept = $derived(!!charts.baseline && baseline?.origin === `chart C${charts.baseline.id}`);
  /** Less is what reading twice gives, ΔE. */
  const ALIKE = 0.5;
  /** With its sign, but for nothing. */
  function signed(deltaE: number): string {
    const shown = Math.round(deltaE * 10) / 10;
    return `${shown > 0 ? '+' : shown < 0 ? '−' : ''}${Math.abs(shown).toFixed(1)}`;
  }
  function inkWords(middle: number, full: number): string {
    if (Math.max(Math.abs(middle), Math.abs(full)) < ALIKE) return 'as it was';
    const isOfFull = Math.abs(middle) < ALIKE;
    return `${isOfFull ? 'its full tone ' : ''}${(isOfFull ? full : middle) > 0 ? 'stronger' : 'weaker'} than it was`;
  }
  /** What no correction brings back, in words. */
  const left = $derived(
    [
      ...(drift && drift.short.length > 0 ? ['ink that no longer comes to its full tone'] : []),
      ...(drift?.byCurves ? ['the hue of what one ink prints alone'] : [])
    ].join(', and ')
  );
  const worst = $derived([...watch.patches].sort((p, q) => q.deltaE - p.deltaE).slice(0, 8));
  const inksOf = (id: string) => charts.compare?.layout.patches.find((patch) => patch.id === id)?.inks;

  const act = (of: WatchAct, said: string) => attempt(() => send('POST', `/api/conditions/${conditionId}/watch`, of), said);
  /** What the correction will leave is worked out with it: some seconds. */
  let isComparing = $state(false);
  async function compare(chartId: number): Promise<void> {
    isComparing = true;
    await act({ act: 'compare', chartId }, 'Compared.');
    isComparing = false;
  }
  async function load(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
    const { currentTarget: input } = event;
    const file = input.files?.[0];
    if (!file) return;
    await attempt(async () => {
      const reply = await fetch(`/api/conditions/${conditionId}/baseline`, { method: 'PUT', body: file });
      if (!reply.ok) throw new Refusal(reply.status, ((await reply.json()) as { error: string }).error, {});
    }, `${file.name} is the baseline now.`);
    input.value = '';
  }
</script>

{#if due}<p class="border-warning border-l-4 pl-3">It is time to compare it with its baseline: {due}.</p>{/if}
<section aria-label="Baseline" class="space-y-2">
  <h3 class="panel-title">Baseline</h3>
  {#if baseline}
    <p>
      {baseline.patches} patches of {baseline.machine} on {baseline.media}, {baseline.mode}, read {day(baseline.at)} ({baseline.origin}){baseline.roll
        ? `, on a roll ${widthOf(baseline.roll.widthMm)} wide with ${tape(baseline.roll.lengthMm)} left`
        : ''}.
      {#if baseline.isOld}<span class="text-warning">The profile or the curves were made anew since: make a new baseline.</span
        >{/if}
    </p>
  {:else}
    <p class="text-base-content/70">
      A chart that is read while all is well. After a service, or some weeks later, the very same chart shows what has changed.
    </p>
  {/if}
  {#if !baseline || isNew || baseline.isOld}
    <ChartWork {conditionId} request={{ kind: 'baseline' }} chart={charts.baseline ?? undefined} {needs} />
    {#if isRead(charts.baseline) && charts.baseline}
      {@const chartId = charts.baseline.id}
      <button
        class="btn btn-primary btn-sm"
        disabled={isKept || !isGood(charts.baseline)}
        onclick={async () => {
          if (await act({ act: 'keep baseline', chartId }, 'It is the baseline now.')) isNew = false;
        }}>{isKept ? 'It is the baseline' : 'Keep it as the baseline'}</button
      >
    {/if}
  {/if}
  <div class="flex flex-wrap items-center gap-2 text-sm">
    {#if baseline && !isNew}<button class="btn btn-sm" onclick={() => (isNew = true)}>Make a new baseline</button>{/if}
    <label class="btn btn-sm"
      >Take one from a file<input
        type="file"
        {@attach early}
        class="sr-only"
        accept=".txt,.cgats,.it8,text/plain"
        onchange={load}
      /></label
    >
    {#if baseline}<a class="btn btn-sm" href="/api/conditions/{conditionId}/baseline" download>Save it as CGATS</a>{/if}
    {#if others.length > 0}
      <label
        >Print as
        <select class="in-sentence" aria-label="Print as another condition" bind:value={from}
          ><option value={0}>…</option>{#each others as other (other.id)}<option value={other.id}>{other.name}</option
            >{/each}</select
        ></label
      >
      <button
        class="btn btn-sm"
        disabled={from === 0}
        onclick={() => act({ act: 'adopt baseline', from }, 'Its baseline is the aim now.')}>Take its baseline as the aim</button
      >
    {/if}
  </div>
</section>
{#if baseline && !isNew}
  <section aria-label="Compare" class="space-y-2">
    <h3 class="panel-title">Compare with the baseline</h3>
    <ChartWork {conditionId} request={{ kind: 'compare' }} chart={charts.compare ?? undefined} {needs} again={isCompared} />
    {#if isRead(charts.compare) && charts.compare}
      {@const chartId = charts.compare.id}
      <button
        class="btn btn-primary btn-sm"
        disabled={isCompared || isComparing || !isGood(charts.compare)}
        onclick={() => compare(chartId)}>{isCompared ? 'Compared' : isComparing ? 'Comparing…' : 'Compare them'}</button
      >
    {/if}
    {#if !drift && watch.isCorrected}
      <p>It prints through its correction, and nothing was read of that yet: compare it once more.</p>
    {/if}
    {#if drift}
      {#if drift.chartId !== charts.compare?.id || !isCompared}
        <p class="text-base-content/70">As chart C{drift.chartId} was, read {day(drift.at)}:</p>
      {/if}
      <div class="flex flex-wrap items-end gap-x-8 gap-y-2">
        <dl class="flex gap-x-8">
          {#each [['mean', drift.mean], ['95 % within', drift.p95], ['worst', drift.worst]] as const as [words, value] (words)}
            <div>
              <dt class="text-sm">{words}</dt>
              <dd class="measure">ΔE00 {value.toFixed(2)}</dd>
            </div>
          {/each}
        </dl>
        {#if drift.mean > WORTH_CORRECTING}
          <div>
            <button
              class="btn btn-primary btn-sm"
              onclick={() =>
                act({ act: 'correct', driftId: drift.id }, 'It prints through its correction now. Compare once more to be sure.')}
              >Bring it back</button
            >
            {#if drift.predicted}
              <p class="text-sm">
                Then about ΔE00 {drift.predicted.mean.toFixed(2)} in the mean, 95 % within {drift.predicted.p95.toFixed(2)}{left
                  ? `: what is left is ${left}`
                  : ''}.
                {#if drift.byCurves}
                  Curves alone would leave {drift.byCurves.mean.toFixed(2)}, so what several inks print is corrected together too.
                {/if}
              </p>
            {/if}
          </div>
        {:else}<p class="text-success">✓ It prints as it did</p>{/if}
      </div>
      <div class="grid items-start gap-8 lg:grid-cols-2">
        <table class="table-xs table" aria-label="By ink">
          <thead
            ><tr><th>Ink</th><th class="text-right">middle tone, ΔE</th><th class="text-right">full tone, ΔE</th><th></th></tr
            ></thead
          >
          <tbody>
            {#each drift.channels as { name, middle, full } (name)}
              {@const short = drift.short.find((one) => one.name === name)}
              <tr>
                <td class="capitalize">{name}</td>
                <td class="text-right">{signed(middle)}</td>
                <td class="text-right">{signed(full)}</td>
                <td
                  >{inkWords(middle, full)}{#if short}<span class="text-warning"
                      >; cannot come back above {Math.round(short.from * 100)} %</span
                    >{/if}</td
                >
              </tr>
            {/each}
          </tbody>
        </table>
        <table class="table-xs table" aria-label="Farthest off">
          <thead><tr><th>Farthest off</th><th>then, now</th><th>Inks</th><th class="text-right">ΔE00</th></tr></thead>
          <tbody>
            {#each worst as patch (patch.id)}
              {@const inks = inksOf(patch.id)}
              <tr>
                <td>{patch.id}</td>
                <td><Swatches asked={patch.before} reached={patch.now} /></td>
                <td>{inks ? describe(inks) : ''}</td>
                <td class="text-right">{patch.deltaE.toFixed(2)}</td>
              </tr>
            {/each}
          </tbody>
        </table>
      </div>
    {/if}
  </section>
{/if}
<section aria-label="Over time" class="space-y-2">
  <h3 class="panel-title">Over time</h3>
  {#if drifts.length > 0}
    <Plot
      label="How far the condition was from its baseline at each reading, ΔE00"
      height={220}
      data={[
        {
          x: drifts.map(({ at }) => new Date(at)),
          y: drifts.map(({ mean }) => mean),
          mode: 'lines+markers' as const,
          name: 'mean',
          line: { color: INK_LINES.cyan }
        },
        {
          x: drifts.map(({ at }) => new Date(at)),
          y: drifts.map(({ p95 }) => p95),
          mode: 'lines+markers' as const,
          name: '95 % within',
          line: { color: INK_LINES.black, dash: 'dot' }
        },
        {
          x: watch.notes.map(({ at }) => new Date(at)),
          y: watch.notes.map(() => 0),
          // Two of a few days are told one above the other.
          text: watch.notes.map(({ what }, i) => (i % 2 === 0 ? what : `${what}<br>&nbsp;`)),
          mode: 'text+markers' as const,
          textposition: 'top center',
          name: 'noted',
          marker: { color: INK_LINES.magenta, symbol: 'triangle-up', size: 10 }
        }
      ]}
      layout={{
        showlegend: true,
        legend: { orientation: 'h', y: 1.15 },
        xaxis: { tickformat: '%-d %b' },
        yaxis: { title: { text: 'ΔE00' }, rangemode: 'tozero' }
      }}
    />
  {:else}<p class="text-base-content/70 text-sm">Each comparison is a point here.</p>{/if}
  <form
    class="flex flex-wrap items-center gap-2 text-sm"
    onsubmit={(event) => {
      event.preventDefault();
      void act({ act: 'note', what }, 'It is noted.');
    }}
  >
    <label
      >Note for its machine
      <select class="in-sentence" aria-label="What was done" bind:value={what}
        >{#each NOTES as one (one)}<option>{one}</option>{/each}</select
      ></label
    >
    <button class="btn btn-sm">Note it today</button>
    {#each watch.notes.slice(-3) as note (note.id)}<span class="text-base-content/70 flex items-center"
        >{note.what}, {day(note.at)}<button
          class="btn btn-ghost btn-xs btn-square"
          type="button"
          aria-label="Take out: {note.what}, {day(note.at)}"
          onclick={() => void act({ act: 'take out note', noteId: note.id }, 'It is noted no more.')}
          ><X size={14} aria-hidden="true" /></button
        ></span
      >{/each}
  </form>
</section>
