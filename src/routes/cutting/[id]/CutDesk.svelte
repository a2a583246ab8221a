<script lang="ts">
  import { untrack } from 'svelte';
  import Check from '@lucide/svelte/icons/check';
  import { invalidate } from '$app/navigation';
  import { TOOLS, type Tool } from '$core/artwork/roles';
  import { MOST_OFF_MM } from '$core/cutting/registration';
  import { attempt, duration, Refusal, send } from '$lib/ui/common/client';
  import { together } from '$lib/ui/common/together';
  import { live } from '$lib/ui/common/live.svelte';
  import type { CutClosed } from '$lib/server/cutting/cut';
  import CutPicture from '$lib/ui/cutting/CutPicture.svelte';
  import Knives from '$lib/ui/cutting/Knives.svelte';
  import type { PageData } from './$types';
  import { sheetOf, tape } from '$lib/ui/common/shop-unit';

  let { data }: { data: PageData } = $props();

  const cut = $derived(data.cut);
  const cutters = $derived(data.machines.filter(({ kind }) => kind === 'cutter'));
  /** Where it is laid in: as it lay last, or in the shop's first. */
  let cutter = $state(untrack(() => (cutters.find(({ id }) => id === data.cut.machineId) ?? cutters[0])?.id));
  let busy = $state('');
  let knife = $state(untrack(() => structuredClone(data.cut.knife)));
  let known = untrack(() => data.cut.knife);
  /** What is typed here stays while it is kept; another cutter has other knives for this media. */
  $effect(() => {
    const now = data.cut.knife;
    untrack(() => {
      knife = structuredClone(together(known, $state.snapshot(knife), now));
      known = now;
    });
  });
  /** Those that this print has lines for. */
  const tools = $derived(TOOLS.filter((tool) => cut.lines.some((line) => line.tool === tool)));
  const isSilent = $derived(data.machines.map(live.machine).some(({ id, online }) => id === cut.machineId && !online));
  /** How a sheet lies, where it is not as it was printed. */
  const lies = $derived.by(() => {
    if (!cut.registration || cut.onRoll) return '';
    const [a, b] = cut.registration.map;
    const degrees = Math.round((Math.atan2(b, a) * 180) / Math.PI);
    return Math.abs(degrees) < TURNED ? '' : ` It lies turned by ${Math.abs(degrees)}°, and is cut so.`;
  });
  /** Less than that is how a person lays a sheet in, degrees. */
  const TURNED = 10;
  /** Cut out of film that nothing is printed on. */
  const isPlain = $derived(cut.marks.length === 0);
  const FORMS = ['svg', 'dxf', 'pdf', 'hpgl'] as const;
  let wrong = $state('');
  /** Its marks fit, and those of a print that broke off would too. */
  let mayBeBroken = $state(false);

  const steps = $derived([
    {
      act: 'load',
      title: isPlain ? 'Load plain film' : 'Load the print',
      told: isPlain
        ? `Lay in film of ${sheetOf(cut.widthMm, cut.lengthMm)}: nothing is printed on it.`
        : 'Carry the print over and lay it in the cutter.',
      done: cut.state !== 'waiting',
      ready: cut.state === 'waiting'
    },
    {
      act: 'marks',
      title: isPlain ? 'Find the corner' : 'Find the marks',
      told: isPlain
        ? 'It is cut from the corner on: there are no marks on it.'
        : cut.registration
          ? `${cut.registration.matched.length} of ${cut.marks.length} found; ${cut.registration.worst.toFixed(3)} mm off at worst, ${cut.registration.rms.toFixed(3)} mm on the whole. Up to ${MOST_OFF_MM} mm is taken.${lies}`
          : `The camera looks for ${cut.marks.length} discs.`,
      done: cut.state === 'registered' || cut.state === 'cutting' || cut.state === 'cut',
      ready: cut.state === 'loaded'
    },
    {
      act: 'cut',
      title: cut.linesCut > 0 && cut.state !== 'cut' ? 'Cut the rest' : 'Cut',
      told:
        cut.state === 'cut'
          ? `${cut.lines.length} lines were cut.`
          : cut.state === 'cutting'
            ? `${cut.linesCut} of ${cut.lines.length} lines are cut.`
            : `${cut.lines.length} lines, ${tape(cut.cutMm)} to cut, ${tape(cut.travelMm)} lifted; about ${duration(cut.secondsAtSpeed)}.`,
      done: cut.state === 'cut',
      ready: cut.state === 'registered'
    }
  ]);

  async function act(name: string, body: object = {}): Promise<void> {
    busy = name;
    // What is typed goes along: cutting does not begin with the knife of before.
    const along = name === 'cut' ? { knife } : name === 'load' && cutter !== undefined ? { machineId: cutter } : {};
    mayBeBroken = false;
    await attempt(async () => {
      try {
        await send('POST', `/api/cuts/${cut.id}/${name}`, { ...along, ...body });
      } catch (error) {
        mayBeBroken = error instanceof Refusal && error.fields['refused'] === 'broken';
        throw error;
      }
    });
    busy = '';
  }

  const day = (at: number | null) =>
    at === null ? '' : new Date(at).toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' });

  /** Said by a person, where no cutter of the shop cuts it. */
  async function say(what: CutClosed | 'put back'): Promise<void> {
    busy = what;
    await attempt(async () => {
      const { ids } = await send<{ ids: number[] }>('POST', '/api/cuts/many', { ids: [cut.id], what });
      if (ids.length === 0) throw new Error('It was changed in another window, or a cutter took it, meanwhile. Look again.');
    });
    busy = '';
  }

  async function test(tool: Tool): Promise<void> {
    busy = 'test';
    await attempt(() => send('POST', `/api/cuts/${cut.id}/test`, { tool, knife }));
    busy = '';
    await invalidate(`zing:cuts/${cut.id}`);
  }

  async function keepKnife(): Promise<void> {
    try {
      await send('PUT', `/api/cuts/${cut.id}`, { knife });
      wrong = '';
    } catch (error) {
      wrong = error instanceof Error ? error.message : String(error);
    }
  }
</script>

<div class="flex h-full">
  <section class="min-w-0 grow" aria-label="Print with its cut lines"><CutPicture {cut} asCut={data.asCut} /></section>
  <aside class="border-base-300 w-80 shrink-0 space-y-5 overflow-auto border-l p-4" aria-label="Steps">
    <header>
      <h1 class="text-lg font-semibold">{cut.code}</h1>
      <p class="text-base-content/70 text-sm">
        {cut.names.join(', ')}, <a class="link" href="/runs/{cut.runId}">run {cut.runId}</a>
      </p>
    </header>
    {#if cut.reason}<p class="text-error text-sm" role="alert">{cut.reason}</p>{/if}
    {#if cut.closed}
      <section class="space-y-2" aria-label="Put down by hand">
        <p class="text-sm">
          <strong>{cut.closed === 'cut elsewhere' ? 'Cut elsewhere' : 'Not to be cut'}</strong>, as was said on {day(cut.cutAt)}:
          no roll and no docket waits for it.
          {#if cut.linesCut > 0}{cut.linesCut} of {cut.lines.length} lines had been cut here.{/if}
        </p>
        <button class="btn btn-sm" disabled={busy !== ''} onclick={() => say('put back')}
          >Put it back to the prints that wait</button
        >
      </section>
    {/if}
    <ol class="space-y-3" hidden={cut.closed !== null}>
      {#each steps as step, i (step.act)}
        <li class="flex gap-3">
          <span class="border-base-content/50 flex h-7 w-7 shrink-0 items-center justify-center rounded-full border font-semibold"
            >{#if step.done}<Check size={16} aria-label="done" />{:else}{i + 1}{/if}</span
          >
          <div class="grow">
            <div class="font-semibold">{step.title}</div>
            <p class="text-sm">{step.told}</p>
            {#if step.act === 'load' && cutters.length > 1 && cut.state !== 'cutting'}
              <select class="select select-sm mt-1 w-full" aria-label="Cutter" bind:value={cutter}>
                {#each cutters as one (one.id)}<option value={one.id}>{one.name}{one.online ? '' : ', not reachable'}</option
                  >{/each}
              </select>
            {/if}
            {#if step.ready}
              <button class="btn btn-primary btn-sm mt-1" disabled={busy !== ''} onclick={() => act(step.act)}>
                {#if busy === step.act}<span class="loading loading-spinner loading-xs"></span>{/if}{step.title}
              </button>
              {#if step.act === 'marks' && mayBeBroken}
                <button class="btn btn-sm mt-1" disabled={busy !== ''} onclick={() => act('marks', { isWhole: true })}
                  >It is the whole one</button
                >
              {/if}
              {#if step.act === 'cut' && cut.linesCut > 0}
                <button class="btn btn-sm mt-1" disabled={busy !== ''} onclick={() => act('cut', { all: true })}
                  >Cut all {cut.lines.length} again</button
                >
              {/if}
            {:else if step.act === 'cut' && cut.state === 'cutting'}
              <progress class="progress progress-primary" value={cut.linesCut} max={cut.lines.length} aria-label="Lines cut"
              ></progress>
              {#if isSilent}
                <p class="text-warning text-sm">Its cutter does not answer.</p>
                <button class="btn btn-sm mt-1" disabled={busy !== ''} onclick={() => act('give-up')}>Give it up</button>
              {/if}
            {:else if step.act === 'load' && step.done && cut.state !== 'cutting'}
              <button class="btn btn-sm mt-1" disabled={busy !== ''} onclick={() => act('load')}>Load it again</button>
            {/if}
          </div>
        </li>
      {/each}
    </ol>
    <Knives
      bind:knife
      {tools}
      cutting={cut.state === 'cutting'}
      {wrong}
      busy={busy !== ''}
      onkeep={keepKnife}
      ontest={cut.state === 'registered' ? test : undefined}
    />
    <section aria-label="Files for other cutters">
      <h2 class="panel-title mb-1">For another cutter</h2>
      <p class="text-base-content/70 mb-1 text-xs">The same lines and marks, in millimetres of the print.</p>
      <div class="flex gap-2">
        {#each FORMS as form (form)}<a class="btn btn-sm" href="/api/cuts/{cut.id}/file?as={form}" download
            >{form.toUpperCase()}</a
          >{/each}
      </div>
    </section>
    {#if cut.state !== 'cutting' && cut.state !== 'cut'}
      <section aria-label="Not cut here">
        <h2 class="panel-title mb-1">Not cut here</h2>
        <p class="text-base-content/70 mb-1 text-xs">Its docket waits for it no longer, nor does its roll. It can be put back.</p>
        <div class="flex gap-2">
          <button
            class="btn btn-sm"
            disabled={busy !== ''}
            title="By hand, or on another cutter from a file"
            onclick={() => say('cut elsewhere')}>Cut elsewhere</button
          >
          <button
            class="btn btn-sm"
            disabled={busy !== ''}
            title="It was spoiled, or goes out uncut"
            onclick={() => say('not to be cut')}>Not to be cut</button
          >
        </div>
      </section>
    {/if}
  </aside>
</div>
