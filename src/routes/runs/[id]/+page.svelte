<script lang="ts">
  import { beforeNavigate, goto } from '$app/navigation';
  import ArrowDown from '@lucide/svelte/icons/arrow-down';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import Redo from '@lucide/svelte/icons/redo-2';
  import Undo from '@lucide/svelte/icons/undo-2';
  import X from '@lucide/svelte/icons/x';
  import { untrack } from 'svelte';
  import { toast } from 'svelte-sonner';
  import { layOutRun } from '$core/layout/run-layout';
  import { printSeconds } from '$core/rip/ink';
  import { formatFigure, formatMetres } from '$core/units/length';
  import { toLayoutDocket, type RunRule } from '$lib/model';
  import type { Docket } from '$lib/server/dockets';
  import type { Run } from '$lib/server/runs';
  import CountBox from '$lib/ui/common/CountBox.svelte';
  import { attempt, duration, isAway, send } from '$lib/ui/common/client';
  import { Edits } from '$lib/ui/common/history.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import { live } from '$lib/ui/common/live.svelte';
  import Progress from '$lib/ui/common/Progress.svelte';
  import PrintPanel from '$lib/ui/run/PrintPanel.svelte';
  import RollPicture from '$lib/ui/run/RollPicture.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  /** What can be changed here: the rule, which dockets in what order, and their copies. */
  interface Laying {
    rule: RunRule;
    dockets: Docket[];
  }
  let run = $derived(data.run);
  let shownId = untrack(() => data.run.id);
  let saved = untrack(() => ({ rule: data.run.rule, dockets: data.run.dockets }));
  let version = untrack(() => data.run.version);

  const edits = new Edits<Laying>(
    untrack(() => saved),
    async (next) => {
      try {
        for (const docket of next.dockets) {
          const before = saved.dockets.find((d) => d.id === docket.id);
          if (before && before.choices.copies !== docket.choices.copies) {
            const { version: newest, choices } = await send<Docket>('GET', `/api/dockets/${docket.id}`);
            await send('PUT', `/api/dockets/${docket.id}`, {
              version: newest,
              choices: { ...choices, copies: docket.choices.copies }
            });
          }
        }
        const ids = (list: readonly Docket[]) => list.map((docket) => docket.id).join();
        if (JSON.stringify(saved.rule) !== JSON.stringify(next.rule) || ids(saved.dockets) !== ids(next.dockets)) {
          ({ version } = await send<Run>('PUT', `/api/runs/${shownId}`, {
            version,
            rule: next.rule,
            docketIds: next.dockets.map((docket) => docket.id)
          }));
        }
        saved = next;
      } catch (error) {
        toast.error(error instanceof Error ? error.message : String(error), { id: 'saving' });
        if (isAway(error)) throw error;
        adopt(await send<Run>('GET', `/api/runs/${shownId}`));
      }
    }
  );
  function adopt(newer: Run): void {
    shownId = newer.id;
    version = newer.version;
    saved = { rule: newer.rule, dockets: newer.dockets };
    edits.replace(saved);
  }
  $effect(() => {
    const newer = data.run;
    untrack(() => {
      if (newer.id !== shownId) adopt(newer);
      else if (
        !edits.pending &&
        !edits.saving &&
        JSON.stringify([newer.rule, newer.dockets]) !== JSON.stringify([saved.rule, saved.dockets])
      ) {
        version = newer.version;
        const mine = saved;
        saved = { rule: newer.rule, dockets: newer.dockets };
        if (JSON.stringify(edits.current) === JSON.stringify(mine)) edits.adopt(saved);
        else edits.replace(saved);
      } else version = Math.max(version, newer.version);
    });
  });
  beforeNavigate(() => void edits.flush());

  const current = $derived(edits.current);
  const layout = $derived(layOutRun(current.dockets.map(toLayoutDocket), run.condition.rollWidthMm, current.rule));
  const open = $derived(run.state === 'laying out' || run.state === 'ripped');
  const machine = $derived(data.machines.find((m) => m.id === run.condition.machineId));
  const seconds = $derived(
    machine?.printer && layout.length > 0
      ? printSeconds(run.condition.rollWidthMm, layout.length, { ...machine.printer, passes: run.condition.mode.passes })
      : null
  );
  const inkMl = $derived.by(() => {
    if (run.result && !run.stale && !edits.pending)
      return { ml: run.result.inkMl.reduce((sum, ml) => sum + ml, 0), counted: true };
    let ml = 0;
    for (const copy of layout.copies) {
      const docket = current.dockets.find((d) => String(d.id) === copy.id);
      const means = data.inks[copy.id];
      if (docket && means) ml += (means.reduce((sum, mean) => sum + mean, 0) * data.mlPerM2 * copy.width * copy.height) / 1e6;
    }
    return { ml, counted: false };
  });
  const mediaCost = $derived(layout.use.areaM2 * run.condition.costPerM2);
  const inkCost = $derived(inkMl.ml * data.settings.inkCostPerMl);
  const task = $derived(live.task('rip', run.id, run.task));
  const ripping = $derived(run.state === 'ripping');
  const printing = $derived(data.prints.find((print) => print.endedAt === null));
  const printedMm = $derived(printing ? (live.prints.get(printing.id)?.printedMm ?? printing.printedMm) : 0);
  const currency = $derived(data.settings.currency);

  const rule = (part: Partial<RunRule>) => edits.change({ ...current, rule: { ...current.rule, ...part } });
  const copies = (id: number, count: number) =>
    edits.change({
      ...current,
      dockets: current.dockets.map((docket) =>
        docket.id === id ? { ...docket, choices: { ...docket.choices, copies: count } } : docket
      )
    });
  const claim = (id: string) => {
    const docket = current.dockets.find((d) => String(d.id) === id);
    if (docket) copies(docket.id, docket.choices.copies + 1);
  };
  function move(index: number, by: number): void {
    const list = [...current.dockets];
    const [docket] = list.splice(index, 1);
    if (docket) list.splice(index + by, 0, docket);
    edits.change({ ...current, dockets: list });
  }
  const takeOut = (id: number) => edits.change({ ...current, dockets: current.dockets.filter((docket) => docket.id !== id) });

  const wide = $derived(layout.tooWide[0]);
  const hindrance = $derived.by(() => {
    if (!run.condition.hasProfile) return `The profile of ${run.condition.media} is being built. It takes a few seconds.`;
    if (wide)
      return `${current.dockets.find((d) => String(d.id) === wide.id)?.name} is ${wide.width.toFixed(1)} mm wide; ${wide.usable.toFixed(1)} mm can be used.`;
    return layout.copies.length === 0 ? 'There is nothing to print in this run.' : '';
  });
  const fresh = $derived(run.result !== null && !run.stale && !edits.pending);

  async function rip(): Promise<void> {
    await edits.flush();
    await attempt(() => send('POST', `/api/runs/${run.id}/rip`));
  }
  async function next(): Promise<void> {
    if (open && !fresh) {
      if (!hindrance) await rip();
    } else if (run.result) await goto(`/runs/${run.id}/inspect`);
  }
  async function remove(): Promise<void> {
    if (await attempt(() => send('DELETE', `/api/runs/${run.id}`), `Run ${run.id} is deleted; its dockets are back in the tray.`))
      await goto('/runs');
  }

  function keys(event: KeyboardEvent): void {
    if (!(event.ctrlKey || event.metaKey)) return;
    if (event.key.toLowerCase() === 'z' && open) {
      event.preventDefault();
      if (event.shiftKey) edits.redo();
      else edits.undo();
    } else if (event.key === 'Enter') {
      event.preventDefault();
      void next();
    }
  }
</script>

<svelte:window onkeydown={keys} onbeforeunload={(event) => edits.holdPage(event)} />

<div class="flex h-full">
  <div class="flex min-w-0 grow flex-col">
    <header class="border-base-300 flex shrink-0 items-center gap-3 border-b px-4 py-2">
      <h1 class="text-lg font-semibold">Run {run.id}</h1>
      <span class="text-base-content/70 text-sm"
        >{run.condition.media}, {Math.round(run.condition.rollWidthMm)} mm, {run.condition.mode.name}, on {run.condition
          .machine}</span
      >
      <div class="grow"></div>
      {#if ripping && task}
        <Progress
          label="RIP"
          share={task.share}
          secondsLeft={task.secondsLeft}
          oncancel={() => attempt(() => send('DELETE', `/api/tasks/${task.id}`))}
        />
      {:else}
        {#if task?.state === 'failed' && run.state === 'laying out'}<span class="text-error max-w-80 text-xs" role="alert"
            >The RIP failed: {task.error}</span
          >{/if}
        {#if open}
          <button
            class="btn btn-sm btn-ghost btn-square"
            disabled={!edits.canUndo}
            onclick={() => edits.undo()}
            aria-label="Take back the last change"><Undo size={16} /></button
          >
          <button
            class="btn btn-sm btn-ghost btn-square"
            disabled={!edits.canRedo}
            onclick={() => edits.redo()}
            aria-label="Make it again"><Redo size={16} /></button
          >
          {#if data.prints.length === 0}<button class="btn btn-sm" onclick={remove}>Delete run</button>{/if}
        {/if}
        {#if run.result}<a class="btn btn-sm {fresh ? 'btn-primary' : ''}" href="/runs/{run.id}/inspect">Inspect</a>{/if}
        {#if open}
          <button class="btn btn-sm {fresh ? '' : 'btn-primary'}" disabled={hindrance !== ''} title={hindrance} onclick={rip}
            >{run.result ? 'RIP again' : 'RIP'}</button
          >
        {/if}
      {/if}
    </header>
    {#if run.stale && !ripping}<p class="bg-base-200 text-warning border-base-300 border-b px-4 py-1 text-sm" role="status">
        Look: the layout has changed since the RIP. RIP it again before printing.
      </p>{/if}
    {#if hindrance}<p class="bg-base-200 text-error border-base-300 border-b px-4 py-1 text-sm" role="status">
        Stop: {hindrance}
      </p>{/if}
    <div class="min-h-0 grow">
      <RollPicture
        {layout}
        dockets={current.dockets}
        rollWidth={run.condition.rollWidthMm}
        printed={printedMm}
        {...open ? { onclaim: claim } : {}}
      />
    </div>
  </div>

  <aside class="border-base-300 w-96 shrink-0 space-y-4 overflow-auto border-l p-4" aria-label="Figures of the run">
    <dl class="grid grid-cols-3 gap-x-3 gap-y-2">
      <div>
        <dt class="panel-title">Length</dt>
        <dd class="measure" data-testid="length">{formatMetres(layout.length)}</dd>
      </div>
      <div>
        <dt class="panel-title">Waste</dt>
        <dd class="measure">{Math.round(layout.use.wasteShare * 100)} %</dd>
        <dd class="text-xs">{layout.use.wasteM2.toFixed(2)} of {layout.use.areaM2.toFixed(2)} m²</dd>
      </div>
      <div>
        <dt class="panel-title">Time</dt>
        <dd class="measure">{seconds === null ? '–' : duration(seconds)}</dd>
      </div>
      <div>
        <dt class="panel-title">Ink</dt>
        <dd class="measure">{formatFigure(inkMl.ml, 1)} ml</dd>
        <dd class="text-xs">{inkMl.counted ? 'counted' : 'estimated'}</dd>
      </div>
      <div>
        <dt class="panel-title">Cost</dt>
        <dd class="measure">{currency}{(mediaCost + inkCost).toFixed(2)}</dd>
        <dd class="text-xs">media {mediaCost.toFixed(2)}, ink {inkCost.toFixed(2)}</dd>
      </div>
      <div>
        <dt class="panel-title">Copies</dt>
        <dd class="measure">{layout.copies.length}</dd>
        <dd class="text-xs">{layout.ghosts.length} more free</dd>
      </div>
    </dl>

    {#if run.result || data.prints.length > 0}
      <PrintPanel {run} prints={data.prints} machines={data.machines} hindrances={data.hindrances} cuts={data.cuts} />
    {/if}

    <section aria-label="Dockets">
      <h2 class="panel-title mb-1">Dockets</h2>
      <ul class="space-y-1">
        {#each current.dockets as docket, i (docket.id)}
          <li class="flex items-center gap-2 text-sm">
            {#if open}<CountBox
                label="Copies of {docket.name}"
                value={docket.choices.copies}
                onchange={(count) => copies(docket.id, count)}
              />{:else}<span class="w-20 text-right font-semibold">{docket.choices.copies}</span>{/if}
            <a class="min-w-0 grow truncate hover:underline" href="/dockets/{docket.id}" title={docket.name}>{docket.name}</a>
            {#if open}
              <button
                class="btn btn-ghost btn-xs btn-square"
                disabled={i === 0}
                onclick={() => move(i, -1)}
                aria-label="{docket.name} earlier"><ArrowUp size={14} /></button
              >
              <button
                class="btn btn-ghost btn-xs btn-square"
                disabled={i === current.dockets.length - 1}
                onclick={() => move(i, 1)}
                aria-label="{docket.name} later"><ArrowDown size={14} /></button
              >
              <button
                class="btn btn-ghost btn-xs btn-square"
                onclick={() => takeOut(docket.id)}
                aria-label="Take {docket.name} out"><X size={14} /></button
              >
            {/if}
          </li>
        {:else}
          <li class="text-sm">No docket is in this run. <a class="link" href="/dockets">Lay some out</a></li>
        {/each}
      </ul>
    </section>

    <section aria-label="Placing">
      <h2 class="panel-title mb-1">Placing: rows across the roll</h2>
      <fieldset disabled={!open} class="grid grid-cols-[1fr_auto] items-center gap-x-3 gap-y-1.5 text-sm">
        <span>Gap across the roll, {data.settings.unit}</span><LengthBox
          label="Gap across the roll"
          unit={data.settings.unit}
          value={current.rule.gapX}
          max={500}
          onchange={(gapX) => rule({ gapX })}
        />
        <span>Gap along the roll, {data.settings.unit}</span><LengthBox
          label="Gap along the roll"
          unit={data.settings.unit}
          value={current.rule.gapY}
          max={500}
          onchange={(gapY) => rule({ gapY })}
        />
        <span>Margin at the edges, {data.settings.unit}</span><LengthBox
          label="Margin at the edges"
          unit={data.settings.unit}
          value={current.rule.margin}
          max={500}
          onchange={(margin) => rule({ margin })}
        />
        <span>Lead before, {data.settings.unit}</span><LengthBox
          label="Lead before"
          unit={data.settings.unit}
          value={current.rule.lead}
          max={2000}
          onchange={(lead) => rule({ lead })}
        />
        <span>Tail after, {data.settings.unit}</span><LengthBox
          label="Tail after"
          unit={data.settings.unit}
          value={current.rule.tail}
          max={2000}
          onchange={(tail) => rule({ tail })}
        />
        <label for="align">On the roll</label>
        <select
          id="align"
          class="select select-sm w-40"
          value={current.rule.align}
          onchange={(event) => rule({ align: event.currentTarget.value as RunRule['align'] })}
        >
          <option value="left">at the left edge</option><option value="centre">centred</option><option value="right"
            >at the right edge</option
          >
        </select>
        <label for="method">Halftone</label>
        <select
          id="method"
          class="select select-sm w-40"
          value={current.rule.method}
          onchange={(event) => rule({ method: event.currentTarget.value as RunRule['method'] })}
        >
          <option value="blue-noise">blue noise</option><option value="error-diffusion">error diffusion</option>
        </select>
      </fieldset>
    </section>
  </aside>
</div>
