<script lang="ts">
  import { readingSeconds, stripName } from '$core/charts/chart-layout';
  import { describe, nameOf } from '$core/charts/check-readings';
  import { counted } from '$core/units/counted';
  import { early } from '$lib/ui/common/early';
  import type { Chart } from '$lib/calibration';
  import { attempt, duration, send } from '$lib/ui/common/client';
  import { live } from '$lib/ui/common/live.svelte';
  import Progress from '$lib/ui/common/Progress.svelte';
  import ChartMap from './ChartMap.svelte';
  import { tone } from './show';
  import { tape } from '$lib/ui/common/shop-unit';

  /** A chart's way: laid out and RIPped, printed, read strip by strip. */
  let {
    conditionId,
    request,
    chart: given,
    errors = {},
    needs,
    again = false,
    own
  }: {
    conditionId: number;
    request: object;
    /** The newest chart of this kind. */
    chart: Chart | undefined;
    errors?: Record<string, number>;
    /** Why it cannot be made yet. */
    needs: string | undefined;
    /** The step has been taken with this chart: a new one is offered last. */
    again?: boolean;
    /** One that is no step's: where it is made, what it is called, and whether it is for reading or for the eye. */
    own?: { address: string; what: string; isRead: boolean };
  } = $props();
  const address = $derived(own?.address ?? `/api/conditions/${conditionId}/charts`);
  const what = $derived(own?.what ?? 'chart');
  const isRead = $derived(own?.isRead ?? true);

  /** What the last reading came to; the page learns of it a little later. */
  let newest = $state<Chart>();
  const chart = $derived(
    newest && given && newest.id === given.id && (newest.readAt ?? 0) > (given.readAt ?? 0)
      ? { ...newest, state: given.state }
      : given
  );

  let busy = $state(false);
  let byItself = $state(false);
  let picked = $state<{ chart: number; strip: number; patch: string | null }>({ chart: 0, strip: 0, patch: null });
  const size = $derived.by(async () => {
    if (needs || own) return undefined;
    return send<{ patches: number; pages: number; strips: number; lengthMm: number }>(
      'POST',
      `/api/conditions/${conditionId}/charts?only=size`,
      request
    ).catch(() => undefined);
  });

  const unread = $derived(chart ? chart.layout.patches.filter((patch) => !chart.readings[patch.id]) : []);
  const nextStrip = $derived(unread[0]?.strip ?? 0);
  const strip = $derived(picked.chart === chart?.id ? picked.strip : nextStrip);
  const wrong = $derived(chart?.findings.find((finding) => finding.strip === strip));
  const patch = $derived(chart?.layout.patches.find((one) => one.id === picked.patch && picked.chart === chart.id));
  const rip = $derived(chart ? live.task('rip', chart.runId, null) : null);
  const print = $derived(chart ? [...live.prints.values()].filter((one) => one.runId === chart.runId).at(-1) : undefined);

  const make = async () => {
    busy = true;
    await attempt(() => send('POST', address, request));
    busy = false;
  };
  const printIt = async () => {
    busy = true;
    await attempt(() => send('POST', `/api/charts/${chart?.id}/print`));
    busy = false;
  };

  /** Reads a strip; when it went well, the next one that is not read is next. */
  async function read(which: number, one?: string): Promise<boolean> {
    if (!chart || busy) return false;
    busy = true;
    let good = false;
    const { id } = chart;
    const done = await attempt(async () => {
      const after = await send<Chart>('POST', `/api/charts/${id}/read`, { strip: which, ...(one && { patch: one }) });
      newest = after;
      const finding = after.findings.find((f) => f.strip === which);
      good = !finding;
      const next = after.layout.patches.find((p) => !after.readings[p.id]);
      picked = { chart: id, strip: finding || one ? which : (next?.strip ?? which), patch: one ?? null };
    });
    tone(done && good);
    busy = false;
    return done && good;
  }
  async function readAll(): Promise<void> {
    byItself = true;
    while (byItself && unread.length > 0) {
      if (!(await read(nextStrip))) break;
    }
    byItself = false;
  }
  async function load(event: Event): Promise<void> {
    const input = event.currentTarget as HTMLInputElement;
    const file = input.files?.[0];
    if (!file || !chart) return;
    await attempt(async () => {
      const reply = await fetch(`/api/charts/${chart.id}/cgats`, {
        method: 'PUT',
        body: file,
        headers: { 'content-type': 'text/plain' }
      });
      if (!reply.ok) throw new Error(((await reply.json()) as { error: string }).error);
    }, `Readings of ${file.name} are taken.`);
    input.value = '';
  }
</script>

<section aria-label="The chart" class="space-y-3">
  {#if !chart || (chart.state === 'failed' && !chart.readAt)}
    {#if needs}
      <p class="text-base-content/70">{needs}</p>
    {:else}
      {#if chart?.reason}<p class="text-error">It could not be printed: {chart.reason}</p>{/if}
      {#await size then said}
        {#if said}
          <p>
            <span class="measure">{said.patches}</span> patches on {counted(said.pages, 'page')}, {tape(said.lengthMm)} of the roll;
            {duration(readingSeconds(said.patches, said.strips).byStrips)} to read by strips, {duration(
              readingSeconds(said.patches, said.strips).byPatches
            )} patch by patch.
          </p>
        {/if}
      {/await}
      <button class="btn btn-primary btn-sm" disabled={busy} onclick={make}>Make the {what}</button>
    {/if}
  {:else}
    <div class="flex flex-wrap items-center gap-x-4 gap-y-2">
      <span
        ><span class="font-semibold">{isRead ? 'Chart' : `The ${what}`} C{chart.id}</span>, {chart.variants.length > 0
          ? `${chart.variants.length} variants`
          : `${chart.layout.patches.length} patches`},
        {tape(chart.layout.lengthMm)}</span
      >
      {#if chart.state === 'making'}
        <Progress share={rip?.share ?? 0} secondsLeft={rip?.secondsLeft ?? null} label="RIP" />
      {:else if chart.state === 'printing'}
        <Progress share={print ? print.printedMm / print.lengthMm : 0} secondsLeft={print?.secondsLeft ?? null} label="Print" />
      {:else if chart.state === 'ready' || (chart.state === 'failed' && chart.printId === null)}
        <button class="btn btn-primary btn-sm" disabled={busy} onclick={printIt}>Print the {what}</button>
      {:else if !isRead}
        <span>printed</span>
      {:else if unread.length > 0}
        <button class="btn btn-primary btn-sm" aria-disabled={busy} onclick={() => read(strip)}
          >Read strip {stripName(strip)}</button
        >
        {#if byItself}<button class="btn btn-sm" onclick={() => (byItself = false)}>Stop</button>
        {:else}<button class="btn btn-sm" disabled={busy} onclick={readAll}>Read all that is left</button>{/if}
        <span>{chart.layout.patches.length - unread.length} of {chart.layout.patches.length} read</span>
      {:else}
        <span>all read</span>
        <button class="btn btn-sm" disabled={busy} onclick={() => read(strip)}>Read strip {stripName(strip)} again</button>
      {/if}
      {#if isRead && (chart.state === 'printed' || chart.readAt)}
        <label class="text-sm"
          >Strip <select
            class="select select-sm inline-flex w-16"
            value={strip}
            onchange={(event) => (picked = { chart: chart.id, strip: Number(event.currentTarget.value), patch: null })}
            >{#each { length: chart.layout.strips } as _, s (s)}<option value={s}>{stripName(s)}</option>{/each}</select
          ></label
        >
        <label class="text-sm"
          >patch <select
            class="select select-sm inline-flex w-24"
            value={picked.chart === chart.id ? (picked.patch ?? '') : ''}
            onchange={(event) => (picked = { chart: chart.id, strip, patch: event.currentTarget.value || null })}
            ><option value="">all</option>{#each chart.layout.patches.filter((one) => one.strip === strip) as one (one.id)}<option
                >{one.id}</option
              >{/each}</select
          ></label
        >
      {/if}
      {#if patch && chart.state === 'printed'}
        <button class="btn btn-sm" disabled={busy} onclick={() => read(patch.strip, patch.id)}>Read {patch.id} alone</button>
      {/if}
      {#if isRead}
        <label class="btn btn-sm btn-ghost"
          >Load CGATS<input
            type="file"
            {@attach early}
            class="sr-only"
            accept=".txt,.cgats,.it8,text/plain"
            onchange={load}
          /></label
        >
      {/if}
      {#if chart.readAt}<a class="btn btn-sm btn-ghost" href="/api/charts/{chart.id}/cgats" download>Save CGATS</a>{/if}
      <button class="btn btn-sm btn-ghost" disabled={busy || !!needs || chart.state === 'making'} onclick={make}
        >{own ? `Make a new ${what}` : again ? 'Make a new chart, to do the step again' : 'Make it anew'}</button
      >
    </div>
    {#if chart.reason && chart.state === 'failed'}<p class="text-error text-sm">{chart.reason}</p>{/if}
    {#if chart.isOld}
      <p class="text-sm">
        It was made before the condition was changed, and does not tell how it prints now: make a new {what}{#if isRead}
          before you take what is read of it{/if}.
      </p>
    {/if}
    {#if wrong}<p role="alert" class="text-error text-sm">{wrong.text}</p>
    {:else if chart.findings[0]}<p role="alert" class="text-error text-sm">{chart.findings[0].text}</p>{/if}
    {#if isRead && (chart.state === 'printed' || chart.readAt)}
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <div class="max-h-72 max-w-3xl overflow-y-auto" tabindex="0" role="region" aria-label="Patches, to scroll">
        <ChartMap
          {chart}
          {strip}
          {errors}
          onpick={(s, id) => (picked = { chart: chart.id, strip: s, patch: picked.patch === id ? null : id })}
        />
      </div>
      <p class="text-sm" aria-live="polite">
        {#if patch}
          {@const lab = chart.readings[patch.id]}
          <span class="font-semibold">{patch.id}</span>, {describe(patch.inks)}{#if lab}, read as {nameOf(lab)}: L* {lab[0].toFixed(
              1
            )}, a* {lab[1].toFixed(1)}, b* {lab[2].toFixed(1)}{:else}, not read yet{/if}{#if errors[patch.id] !== undefined}, ΔE00 {errors[
              patch.id
            ]?.toFixed(2)} from what its neighbours say{/if}
        {:else}
          <span class="text-base-content/70"
            >Above as asked for, below as measured. A patch gives its figures when it is clicked.</span
          >
        {/if}
      </p>
    {/if}
  {/if}
</section>
