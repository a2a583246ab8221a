<script lang="ts">
  import { showLab } from '$core/colour/named-colour';
  import type { Triple } from '$core/colour/lab';
  import type { Inks } from '$core/colour/separation';
  import type { Chart } from '$lib/calibration';
  import type { ColourOn } from '$lib/named-colours';
  import { attempt, send } from '$lib/ui/common/client';
  import ChartWork from './ChartWork.svelte';
  import { day, INK_LINES, isGood, percent } from './show';
  import Swatches from './Swatches.svelte';
  import PercentBox from '$lib/ui/common/PercentBox.svelte';

  /** A named colour on one condition: its inks, by the model, by hand, measured, or chosen by eye. */
  let { colour, on, charts }: { colour: { id: number; name: string; lab: Triple }; on: ColourOn; charts: readonly Chart[] } =
    $props();

  type Made = NonNullable<ColourOn['made']>;
  const NAMES = Object.keys(INK_LINES) as (keyof typeof INK_LINES)[];

  /** Inks that are being tried, and what the model says of them. */
  let tried = $state<{ inks: Inks; made: Pick<Made, 'reached' | 'deltaE' | 'total' | 'isOver'> | undefined }>();
  let code = $state('');
  let asking = 0;

  const inks = $derived(tried?.inks ?? on.made?.inks);
  const shown = $derived(tried?.made ?? on.made);
  const chart = $derived(charts.find(({ conditionId, kind }) => conditionId === on.conditionId && kind === 'colour'));
  const sheet = $derived(charts.find(({ conditionId, kind }) => conditionId === on.conditionId && kind === 'neighbours'));
  const isAllRead = $derived(!!chart && chart.layout.patches.every(({ id }) => chart.readings[id]));
  const isTaken = $derived(!!chart && !!on.own?.rounds.some(({ chartId }) => chartId === chart.id));
  const address = $derived(`/api/colours/${colour.id}/conditions/${on.conditionId}`);

  function change(channel: number, share: number): void {
    if (!inks || !Number.isFinite(share)) return;
    const next = inks.map((v, i) => (i === channel ? Math.min(1, Math.max(0, share)) : v)) as Inks;
    tried = { inks: next, made: tried?.made };
    const mine = ++asking;
    void attempt(async () => {
      const made = await send<Made>('POST', address, { inks: next });
      // The newest answer alone counts.
      if (mine === asking && tried) tried = { inks: tried.inks, made };
    });
  }
  const keep = (own: Inks | null) =>
    attempt(
      async () => {
        await send('PUT', address, { inks: own });
        tried = undefined;
      },
      own ? 'These inks are its own here.' : 'It prints as the profile gives it.'
    );
  const correct = () => attempt(() => send('POST', `/api/colours/${colour.id}/correct`, { chartId: chart?.id }), 'Corrected.');
  const pick = (as: 'condition' | 'colour') =>
    attempt(
      async () => {
        await send('POST', `/api/colours/${colour.id}/pick`, { chartId: sheet?.id, code, as });
        code = '';
      },
      as === 'condition'
        ? `${code.toUpperCase()} is taken for this condition.`
        : `${code.toUpperCase()} is the colour now, on every condition.`
    );
  const HOW = { 'by hand': 'chosen by hand', measured: 'found by measuring', picked: 'chosen on a sheet' } as const;
</script>

{#if on.made && inks && shown}
  <div class="flex flex-wrap gap-x-8 gap-y-4">
    <div>
      <Swatches asked={colour.lab} reached={shown.reached} large />
      <p class="flex w-40 text-xs"><span class="w-1/2">asked</span><span>{tried ? 'with these inks' : 'printed'}</span></p>
    </div>
    <dl class="grid grid-cols-[auto_1fr] content-start gap-x-4 gap-y-0.5 text-sm">
      <dt>Asked</dt>
      <dd>{showLab(colour.lab)}</dd>
      <dt>By the model</dt>
      <dd>{showLab(shown.reached)}</dd>
      <dt>ΔE00 left</dt>
      <dd class="measure">{shown.deltaE.toFixed(2)}</dd>
      <dt>Ink in all</dt>
      <dd class={shown.isOver ? 'text-error font-semibold' : ''}>
        {percent(shown.total)}{shown.isOver ? `, over the limit of ${percent(on.made.most)}: less will print` : ''}
      </dd>
    </dl>
    <form
      class="space-y-1"
      onsubmit={(event) => {
        event.preventDefault();
        if (tried) void keep(tried.inks);
      }}
    >
      {#each NAMES as name, i (name)}
        <label class="flex items-center gap-2 text-sm"
          ><span class="w-16 capitalize">{name}</span><input
            type="range"
            class="range range-xs w-40"
            min="0"
            max="100"
            step="0.4"
            value={(inks[i] ?? 0) * 100}
            aria-label="{name}, slider"
            oninput={(event) => change(i, event.currentTarget.valueAsNumber / 100)}
          /><PercentBox
            class="input input-xs w-20 text-right"
            label="{name}, per cent"
            decimals={1}
            share={inks[i] ?? 0}
            onchange={(share) => change(i, share)}
          />%</label
        >
      {/each}
      <div class="flex flex-wrap gap-2 pt-1">
        {#if tried}
          <button class="btn btn-primary btn-sm">Keep these inks</button>
          <button type="button" class="btn btn-sm" onclick={() => (tried = undefined)}>Leave it as it was</button>
        {:else if on.own}
          <button type="button" class="btn btn-sm" onclick={() => keep(null)}>Print as the profile gives it</button>
        {/if}
      </div>
    </form>
  </div>
  {#if on.own}
    <p class="text-sm">
      {#if on.own.old}Inks of its own were {HOW[on.own.how]} for this condition as it was; its profile or curves are others since, so
        that it prints as the profile gives it. Measure it again.
      {:else}Its inks here are its own, {HOW[on.own.how]}.{/if}
    </p>
  {/if}
  <section aria-label="Measure it" class="space-y-2">
    <h3 class="panel-title">Measure it</h3>
    <p class="text-base-content/70 text-sm">
      The colour is printed eleven times, read, and its inks corrected by what was read; again as often as it gains.
    </p>
    <ChartWork
      conditionId={on.conditionId}
      request={{ kind: 'colour', conditionId: on.conditionId }}
      {chart}
      needs={undefined}
      own={{ address: `/api/colours/${colour.id}/charts`, what: 'chart', isRead: true }}
    />
    {#if isAllRead}
      <button class="btn btn-primary btn-sm" disabled={isTaken || !isGood(chart)} onclick={correct}
        >{isTaken ? 'Corrected by this chart' : 'Correct its inks by this reading'}</button
      >
    {/if}
    {#if on.own && on.own.rounds.length > 0}
      <table class="table-xs table max-w-2xl" aria-label="Rounds">
        <thead><tr><th>Round</th><th>Inks</th><th>Measured</th><th class="text-right">ΔE00</th></tr></thead>
        <tbody>
          {#each on.own.rounds as round, i (round.chartId)}
            <tr>
              <td>{i + 1}: C{round.chartId}, {day(round.at)}</td>
              <td>{round.inks.map((v) => percent(v, 1)).join(', ')}</td>
              <td
                ><span class="flex items-center gap-2"
                  ><Swatches asked={colour.lab} reached={round.measured} />{showLab(round.measured, 2)}</span
                ></td
              >
              <td class="text-right font-semibold">{round.deltaE.toFixed(2)}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
  </section>
  <section aria-label="Choose by eye" class="space-y-2">
    <h3 class="panel-title">Choose by eye</h3>
    <p class="text-base-content/70 text-sm">
      A sheet of its neighbours: lighter (A), as light (B) and darker (C) blocks; more colourful to the right, the hue turning
      downwards. The one with a bar under it (B33) is the colour itself.
    </p>
    <ChartWork
      conditionId={on.conditionId}
      request={{ kind: 'neighbours', conditionId: on.conditionId }}
      chart={sheet}
      needs={undefined}
      own={{ address: `/api/colours/${colour.id}/charts`, what: 'sheet', isRead: false }}
    />
    {#if sheet?.printId != null}
      <form
        class="flex flex-wrap items-end gap-2"
        onsubmit={(event) => {
          event.preventDefault();
          if (code.trim() !== '') void pick('condition');
        }}
      >
        <label class="text-sm"
          >Code under the chosen patch<input
            class="input input-sm block w-28 uppercase"
            maxlength="3"
            placeholder="B24"
            bind:value={code}
          /></label
        >
        <button class="btn btn-primary btn-sm" disabled={code.trim() === '' || sheet.isOld}>Take it for this condition</button>
        <button type="button" class="btn btn-sm" disabled={code.trim() === ''} onclick={() => pick('colour')}
          >Take it as the colour everywhere</button
        >
      </form>
    {/if}
  </section>
{:else}<p>The first profile of this condition is being made.</p>{/if}
