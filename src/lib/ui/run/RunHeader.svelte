<script lang="ts">
  import type { Snippet } from 'svelte';
  import { isJig } from '$core/layout/placement';
  import type { TaskProgress } from '$lib/server/platform/events';
  import type { Run } from '$lib/server/production/run';
  import { attempt, send } from '$lib/ui/common/client';
  import type { Edits } from '$lib/ui/common/history.svelte';
  import Progress from '$lib/ui/common/Progress.svelte';
  import StepButtons from '$lib/ui/common/StepButtons.svelte';
  import type { Laying } from './laying';
  import { sheetOf, widthOf } from '$lib/ui/common/shop-unit';

  /** What a run is, how far it is, and what is done with it next. */
  let {
    run,
    edits,
    open,
    task,
    hindrance,
    fresh,
    waits,
    onask,
    children
  }: {
    run: Run;
    edits: Edits<Laying>;
    /** It can be changed. */
    open: boolean;
    task: TaskProgress | null;
    /** Why it cannot be printed as it is; empty where it can. */
    hindrance: string;
    /** Its plates are of the layout that is seen. */
    fresh: boolean;
    /** What it waits for, once it is released. */
    waits: string;
    onask: (what: 'rip' | 'release') => unknown;
    children: Snippet;
  } = $props();

  /** One that came out in part is changed no more, and still RIPped and released. */
  const waitsForUs = $derived(open || ((run.state === 'ripped' || run.state === 'laying out') && run.releasedAt === null));
</script>

<header class="border-base-300 flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b px-4 py-2">
  <h1 class="text-lg font-semibold">Run {run.id}</h1>
  <span class="text-base-content/70 min-w-40 flex-1 text-sm"
    >{run.condition.media}, {run.condition.sheetMm === null
      ? widthOf(run.condition.rollWidthMm)
      : sheetOf(run.condition.rollWidthMm, run.condition.sheetMm)}, {run.condition.mode.name}, on {run.condition.machine}</span
  >
  {#if run.state === 'ripping' && task}
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
      <StepButtons {edits} onstep={(by) => (by < 0 ? edits.undo() : edits.redo())} />
    {/if}
    {@render children()}
    {#if run.hasPlates}<a class="btn btn-sm" href="/runs/{run.id}/inspect">Inspect</a>{/if}
    {#if waitsForUs}
      <button
        class="btn btn-sm {fresh ? '' : 'btn-primary'}"
        disabled={hindrance !== ''}
        title={hindrance}
        onclick={() => onask('rip')}>{run.result ? 'RIP again' : 'RIP'}</button
      >
      <button
        class="btn btn-sm"
        disabled={hindrance !== ''}
        title={hindrance ||
          (isJig(run.stock)
            ? 'RIPs it if need be; a person prints it once its things are laid in'
            : 'RIPs it if need be, and prints it as soon as its media is loaded and the machine is free')}
        onclick={() => onask('release')}>Release</button
      >
    {:else if run.releasedAt !== null && run.state === 'ripped'}
      <span class="text-sm">Released; it waits{waits ? `: ${waits}` : '.'}</span>
      <button class="btn btn-sm" onclick={() => attempt(() => send('DELETE', `/api/runs/${run.id}/release`))}
        >Take the release back</button
      >
    {/if}
  {/if}
</header>
