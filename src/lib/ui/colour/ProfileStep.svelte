<script lang="ts">
  import { untrack } from 'svelte';
  import { page } from '$app/state';
  import { early } from '$lib/ui/common/early';
  import type { TaskProgress } from '$lib/server/platform/events';
  import { BLACK_CHOICES } from '$core/colour/black';
  import type { BlackSetting, Chart, StepResult } from '$lib/calibration';
  import Plot from '$lib/ui/common/Plot.svelte';
  import Progress from '$lib/ui/common/Progress.svelte';
  import { attempt, send } from '$lib/ui/common/client';
  import { live } from '$lib/ui/common/live.svelte';
  import BlackEditor from './BlackEditor.svelte';
  import ChartWork from './ChartWork.svelte';
  import GamutView from './GamutView.svelte';
  import { INK_LINES } from './show';

  let {
    conditionId,
    chart,
    result,
    curves,
    others,
    needs
  }: {
    conditionId: number;
    chart: Chart | undefined;
    result: StepResult<'profile'> | undefined;
    /** Of the linearisation: 256 values → ink, by ink. */
    curves: number[][] | undefined;
    others: { id: number; name: string }[];
    needs: string | undefined;
  } = $props();

  const SIZES = [300, 600, 900, 1300, 2000, 2800];
  let patches = $state(1300);
  let version = $state<2 | 4>(2);
  let fine = $state(false);
  let without = $state<string[]>([]);
  let black = $state<BlackSetting>(
    untrack(
      () =>
        result?.document.black ?? {
          choice: 'medium',
          steady: true,
          curve: BLACK_CHOICES.medium.curve.map(([d, s]) => [d, s] as [number, number])
        }
    )
  );

  const left = $derived(new Set(without));
  const read = $derived(!!chart && chart.layout.patches.every((patch) => chart.readings[patch.id] || left.has(patch.id)));
  const own = $derived(result && result.document.source === 'measured' && result.chartId === chart?.id ? result : undefined);
  const task = $derived.by(() => {
    // Those that were open when the page was made, and what was told since.
    const mine = [...((page.data.openTasks ?? []) as TaskProgress[]), ...live.tasks.values()].filter(
      (one) => one.kind === 'build' && (JSON.parse(one.subject) as { chartId: number }).chartId === chart?.id
    );
    return mine.sort((p, q) => p.id - q.id).at(-1);
  });
  const building = $derived(task?.state === 'working' || task?.state === 'waiting' ? task : undefined);

  const build = () =>
    attempt(() =>
      send('POST', `/api/conditions/${conditionId}/steps`, {
        step: 'profile',
        chartId: chart?.id,
        black: $state.snapshot(black),
        version,
        fine,
        without
      })
    );
  async function take(event: Event): Promise<void> {
    const input = event.currentTarget as HTMLInputElement;
    const file = input.files?.[0];
    if (!file) return;
    await attempt(async () => {
      const reply = await fetch(`/api/conditions/${conditionId}/profile`, {
        method: 'PUT',
        body: file,
        headers: { 'content-type': 'application/octet-stream' }
      });
      if (!reply.ok) throw new Error(((await reply.json()) as { error: string }).error);
    }, `${file.name} counts as the profile now.`);
    input.value = '';
  }
</script>

<label class="block text-sm"
  >Chart of <select class="select select-sm inline-flex w-44" bind:value={patches} aria-label="Size of the chart"
    >{#each SIZES as size (size)}<option value={size}
        >{size} patches{size === 300 ? ', quick' : size === 1300 ? ', usual' : size === 2800 ? ', thorough' : ''}</option
      >{/each}</select
  ></label
>
<ChartWork
  {conditionId}
  request={{ kind: 'profile', patches }}
  {chart}
  {needs}
  errors={own?.document.errors ?? {}}
  again={!!own}
/>
{#if chart && !needs}
  <BlackEditor {conditionId} bind:black />
  <div class="flex flex-wrap items-center gap-4 text-sm">
    <label
      >ICC version <select class="select select-sm inline-flex w-24" bind:value={version}
        ><option value={2}>2.4</option><option value={4}>4.3</option></select
      ></label
    >
    <label class="flex items-center gap-2"
      ><input type="checkbox" class="checkbox checkbox-sm" bind:checked={fine} />fine (45 points: better near black, takes longer)</label
    >
    {#if building}
      <Progress
        label="Building"
        share={building.share}
        secondsLeft={building.secondsLeft}
        oncancel={() => attempt(() => send('DELETE', `/api/tasks/${building.id}`))}
      />
    {:else}
      <button class="btn btn-primary btn-sm" disabled={!read || !!chart?.isOld} onclick={build}>Build the profile</button>
      {#if !read}<span>Read the whole chart first.</span>{/if}
      {#if task?.state === 'failed'}<span class="text-error">It was not built: {task.error}</span>{/if}
      {#if task?.state === 'cancelled'}<span>It was cancelled; nothing was changed.</span>{/if}
    {/if}
    <label class="btn btn-sm btn-ghost"
      >Take a profile from a file<input type="file" {@attach early} class="sr-only" accept=".icc,.icm" onchange={take} /></label
    >
    <a class="btn btn-sm btn-ghost" href="/api/conditions/{conditionId}/profile" download>Save the profile</a>
    <a class="btn btn-sm btn-ghost" href="/api/conditions/{conditionId}/profile?only=readings" download>Save the readings in it</a
    >
  </div>
{/if}
{#if result}
  {@const { document } = result}
  {#if document.fit}
    <section aria-label="Fit" class="space-y-2">
      <h3 class="font-semibold">How well it fits, each patch told by the others</h3>
      <dl class="flex flex-wrap gap-x-8">
        {#each [['mean', document.fit.mean], ['95 % within', document.fit.p95], [`worst (${document.fit.worstId})`, document.fit.worst]] as const as [words, value] (words)}
          <div>
            <dt class="text-sm">{words}</dt>
            <dd class="measure">ΔE00 {value.toFixed(2)}</dd>
          </div>
        {/each}
        <div>
          <dt class="text-sm">patches</dt>
          <dd class="measure">{document.patches}</dd>
        </div>
      </dl>
      {#each document.findings.slice(0, 8) as finding, i (i)}
        <p class="text-error text-sm">
          {finding.text}
          {#if finding.kind === 'outlier' && own}
            <button class="btn btn-xs" onclick={() => (without = [...new Set([...without, ...finding.ids])])}
              >{left.has(finding.ids[0] ?? '') ? 'will be left out' : 'Leave it out of the next build'}</button
            >
          {/if}
        </p>
      {:else}
        <p class="text-sm">No patch contradicts its neighbours.</p>
      {/each}
    </section>
  {:else}
    <p>Taken from a file: <span class="font-semibold">{document.name || 'unnamed'}</span>, ICC version {document.version}.</p>
  {/if}
  <div class="grid grid-cols-[1.2fr_1fr] gap-8">
    <GamutView {conditionId} {others} />
    {#if document.neutrals.length > 0}
      <section aria-label="Neutral axis">
        <h3 class="font-semibold">Inks of greys, as built</h3>
        <Plot
          label="Inks of greys in the built profile"
          height={220}
          data={['cyan', 'magenta', 'yellow', 'black'].map((name, ink) => ({
            x: document.neutrals.map(({ lightness }) => 100 - lightness),
            y: document.neutrals.map(({ inks }) => (inks[ink] ?? 0) * 100),
            mode: 'lines' as const,
            line: { color: INK_LINES[name as 'cyan'], width: name === 'black' ? 3 : 2 },
            name
          }))}
          layout={{ xaxis: { title: { text: 'darkness (100 − L*)' } }, yaxis: { title: { text: 'value, %' }, range: [0, 102] } }}
        />
        {#if curves}
          <h3 class="font-semibold">Ink curves</h3>
          <Plot
            label="Ink by value, of each ink"
            height={200}
            data={curves.map((curve, i) => ({
              x: curve.map((_, v) => (v / 255) * 100),
              y: curve.map((share) => share * 100),
              mode: 'lines' as const,
              line: { color: Object.values(INK_LINES)[i] ?? '#888888' }
            }))}
            layout={{ xaxis: { title: { text: 'value, %' } }, yaxis: { title: { text: 'ink, %' } } }}
          />
        {/if}
      </section>
    {/if}
  </div>
{:else if !needs}
  <p class="text-base-content/70 text-sm">
    Until one is built, it prints with what the machine says of itself: near, but not measured.
  </p>
{/if}
