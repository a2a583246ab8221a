<script lang="ts">
  import Check from '@lucide/svelte/icons/check';
  import Circle from '@lucide/svelte/icons/circle';
  import Clock from '@lucide/svelte/icons/clock-alert';
  import { untrack } from 'svelte';
  import { toast } from 'svelte-sonner';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import type { ChartKind } from '$core/charts/patches';
  import { isPlainTone } from '$core/colour/tone';
  import { RESTS_ON, STEP_WORDS, STEPS, type Step } from '$lib/calibration';
  import type { Removed } from '$lib/server/platform/removed';
  import { attempt, send } from '$lib/ui/common/client';
  import { leftBehind } from '$lib/ui/common/removed';
  import { live } from '$lib/ui/common/live.svelte';
  import LimitsStep from '$lib/ui/colour/LimitsStep.svelte';
  import LinearStep from '$lib/ui/colour/LinearStep.svelte';
  import ProfileStep from '$lib/ui/colour/ProfileStep.svelte';
  import { day } from '$lib/ui/colour/show';
  import ToneCurves from '$lib/ui/colour/ToneCurves.svelte';
  import TotalStep from '$lib/ui/colour/TotalStep.svelte';
  import VerifyStep from '$lib/ui/colour/VerifyStep.svelte';
  import WatchStep from '$lib/ui/colour/WatchStep.svelte';
  import { watchWords } from '$lib/watch';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  const { condition, results } = $derived(data);
  const asked = $derived(page.url.searchParams.get('step') as Step | null);
  const firstOpen = () => STEPS.find((one) => condition.steps[one].state !== 'done') ?? 'verify';
  /** The first step that is open when the page is opened; it stays when it has been taken, so that its figures are seen. */
  let opened = $state(untrack(() => ({ id: condition.id, step: firstOpen() })));
  $effect.pre(() => {
    if (untrack(() => opened.id) !== condition.id) opened = { id: condition.id, step: untrack(firstOpen) };
  });
  const step = $derived<Step>(asked && STEPS.includes(asked) ? asked : opened.step);
  /** Beyond the steps: whether it still prints as it did, and the curves that dockets get on it. */
  const place = $derived(page.url.searchParams.get('step'));
  const watches = $derived(place === 'watch');
  const tones = $derived(place === 'tone');
  const beyond = $derived(watches || tones);
  const due = $derived(data.due.find(({ conditionId }) => conditionId === condition.id)?.why);
  const watched = $derived(watchWords(condition.watch, due, data.settings.limits.driftDeltaE));
  const next = $derived(STEPS[STEPS.indexOf(step) + 1]);
  const chart = (kind: ChartKind) => data.charts.find((one) => one.kind === kind);
  const start = $derived(live.task('start', condition.id, data.startTask));
  const others = $derived(
    data.conditions
      .filter((one) => one.id !== condition.id && one.hasProfile)
      .map((one) => ({ id: one.id, name: `${one.media}, ${one.mode.name}` }))
  );
  const WATCH_TONE = { open: 'text-base-content/60', look: 'text-warning', done: 'text-success' };
  const NEEDS: Record<Step, Step[]> = {
    limits: [],
    linear: ['limits'],
    total: ['limits', 'linear'],
    profile: ['limits', 'linear'],
    verify: ['limits', 'linear', 'profile']
  };
  const needs = $derived.by(() => {
    const missing = NEEDS[step].find((one) => condition.steps[one].state === 'open');
    return missing ? `First comes “${STEP_WORDS[missing].name}”: this chart is printed with what that finds.` : undefined;
  });
  const staleBecause = $derived.by(() => {
    const result = results[step];
    if (!result?.stale) return undefined;
    const changed = RESTS_ON[step].filter((on) => results[on]?.id !== result.restsOn[on] || results[on]?.stale);
    return changed
      .map((on) => (on === 'start' || on === 'linear check' || on === 'match' || on === 'tone' ? on : STEP_WORDS[on].name))
      .join(' and ');
  });
  const bringBack = () => attempt(() => send('POST', `/api/conditions/${condition.id}/back`), 'It is back.');
  const remove = () =>
    attempt(async () => {
      const removed = await send<Removed>('DELETE', `/api/conditions/${condition.id}`);
      if (removed.is === 'put away')
        return void toast.success(`Put away.${leftBehind(removed)}`, {
          action: { label: 'Take back', onClick: () => void bringBack() }
        });
      toast.success('Deleted: nothing was done with it.');
      await goto('/colour');
    });
  const goTo = (seq: number) =>
    attempt(() => send('POST', `/api/conditions/${condition.id}/state`, { seq }), 'That state counts now.');
</script>

<div class="grid h-full min-h-0 grid-cols-[17rem_1fr]">
  <div class="border-base-300 flex min-h-0 flex-col gap-4 overflow-y-auto border-r p-4">
    <div>
      <a class="link text-sm" href="/colour">All conditions</a>
      <h1 class="text-lg leading-tight font-semibold">{condition.media}</h1>
      <p class="text-sm">{condition.machine}, {condition.mode.name}, {condition.mode.quality}</p>
    </div>
    <nav aria-label="Steps">
      <ol class="border-base-300 ml-2.5 border-l-2">
        {#each STEPS as one (one)}
          {@const { state, madeAt } = condition.steps[one]}
          <li class="relative pb-1 pl-5">
            <span
              class="bg-base-100 absolute top-1.5 -left-[11px] grid h-5 w-5 place-items-center rounded-full {state === 'done'
                ? 'text-success'
                : state === 'stale'
                  ? 'text-warning'
                  : 'text-base-content/60'}"
              aria-hidden="true"
              >{#if state === 'done'}<Check size={18} />{:else if state === 'stale'}<Clock size={18} />{:else}<Circle
                  size={14}
                />{/if}</span
            >
            <a
              href="?step={one}"
              class="hover:bg-base-200 block rounded px-2 py-1 {one === step && !beyond ? 'bg-base-300 font-semibold' : ''}"
              aria-current={one === step && !beyond ? 'step' : undefined}
              >{STEP_WORDS[one].name}
              <span class="block text-xs font-normal"
                >{state === 'open' ? 'open' : state === 'stale' ? 'stale: done again below' : 'done'}{madeAt
                  ? `, ${day(madeAt)}`
                  : ''}</span
              ></a
            >
          </li>
        {/each}
        <li class="relative pb-1 pl-5">
          <span
            class="bg-base-100 absolute top-1.5 -left-[11px] grid h-5 w-5 place-items-center rounded-full {WATCH_TONE[
              watched.level
            ]}"
            aria-hidden="true"
            >{#if watched.level === 'open'}<Circle size={14} />{:else if watched.level === 'look'}<Clock size={18} />{:else}<Check
                size={18}
              />{/if}</span
          >
          <a
            href="?step=watch"
            class="hover:bg-base-200 block rounded px-2 py-1 {watches ? 'bg-base-300 font-semibold' : ''}"
            aria-current={watches ? 'step' : undefined}>Watch <span class="block text-xs font-normal">{watched.words}</span></a
          >
        </li>
      </ol>
    </nav>
    <a
      href="?step=tone"
      class="hover:bg-base-200 block rounded px-2 py-1 {tones ? 'bg-base-300 font-semibold' : ''}"
      aria-current={tones ? 'page' : undefined}
      >Tone curves <span class="block text-xs font-normal">{isPlainTone(data.tone) ? 'straight' : 'every docket gets them'}</span
      ></a
    >
    <section aria-label="History" class="text-sm">
      <h2 class="panel-title">What was done</h2>
      <ol class="space-y-1">
        {#each data.states as state (state.seq)}
          <li class="border-base-300 border-b pb-1">
            <span class={state.current ? 'font-semibold' : ''}>{state.what}</span>
            <span class="text-base-content/70 flex justify-between text-xs"
              >{day(state.madeAt)}{#if state.current}<span>counts now</span>{:else}<button
                  class="link"
                  onclick={() => goTo(state.seq)}
                  aria-label="Go to: {state.what}">go to this</button
                >{/if}</span
            >
          </li>
        {:else}
          <li>Nothing yet.</li>
        {/each}
      </ol>
    </section>
    {#if !condition.away}
      <button
        class="btn btn-sm self-start"
        title="Nothing new is printed in it; what was printed and measured stays known"
        onclick={remove}>Remove this condition</button
      >
    {/if}
  </div>
  <div class="min-h-0 space-y-5 overflow-y-auto p-5">
    {#if condition.away}
      <p class="border-warning flex flex-wrap items-center gap-2 border-l-4 pl-3" role="status">
        {#if condition.away === 'machine'}
          {condition.machine} was put away: nothing is printed in this condition.
          <a class="link" href="/shop">Bring it back under Shop</a>
        {:else if condition.away === 'media'}
          {condition.media} was put away: nothing new is printed in this condition.
          <a class="link" href="/media/{condition.mediaId}">Bring it back under Media</a>
        {:else}
          This condition was put away: nothing new is printed in it.
          <button class="btn btn-xs" onclick={bringBack}>Bring it back</button>
        {/if}
      </p>
    {/if}
    <header>
      <h2 class="text-lg font-semibold">{watches ? 'Watch' : tones ? 'Tone curves' : STEP_WORDS[step].name}</h2>
      <p class="text-base-content/70">
        {watches
          ? 'Whether it still prints as it did, and what brings it back.'
          : tones
            ? 'What every docket is printed through here, after its own curves.'
            : STEP_WORDS[step].does}
      </p>
    </header>
    {#if staleBecause && !beyond}
      <p class="border-warning flex items-center gap-2 border-l-4 pl-3">
        <Clock size={16} aria-hidden="true" />This is stale: {staleBecause} was done again since. What it found is still used; do it
        again to be sure.
      </p>
    {/if}
    {#if !condition.hasProfile}
      {#if start?.state === 'failed'}
        <p class="text-error">
          {start.error}
          <button class="btn btn-xs" onclick={() => attempt(() => send('POST', `/api/conditions/${condition.id}/start`))}
            >Try again</button
          >
        </p>
      {:else}<p>What the machine says of itself is being made ready…</p>{/if}
    {/if}
    {#key `${condition.id} ${step} ${beyond ? place : ''}`}
      {#if watches}
        <WatchStep conditionId={condition.id} watch={data.watch} {due} {others} ready={condition.hasProfile} />
      {:else if tones}
        <ToneCurves
          conditionId={condition.id}
          tone={data.tone}
          tones={data.settings.tones}
          curves={data.curves}
          isMixed={data.isMixed}
        />
      {:else if step === 'limits'}
        <LimitsStep conditionId={condition.id} chart={chart('limits')} result={results.limits} />
      {:else if step === 'linear'}
        <LinearStep
          conditionId={condition.id}
          chart={chart('linear')}
          checkChart={chart('linear check')}
          result={results.linear}
          check={results['linear check']}
          {needs}
          inks={data.inks}
          grain={data.later.grain}
        />
      {:else if step === 'total'}
        <TotalStep
          conditionId={condition.id}
          chart={chart('total')}
          result={results.total}
          usual={condition.mode.limits.total}
          {needs}
        />
      {:else if step === 'profile'}
        <ProfileStep
          conditionId={condition.id}
          chart={chart('profile')}
          result={results.profile}
          curves={(results.linear ?? results.start)?.document.curves}
          {others}
          {needs}
        />
      {:else}
        <VerifyStep conditionId={condition.id} chart={chart('verify')} result={results.verify} {needs} />
      {/if}
    {/key}
    {#if next && !beyond && condition.steps[step].state === 'done' && condition.steps[next].state !== 'done'}
      <p><a class="btn btn-primary btn-sm" href="?step={next}">Next: {STEP_WORDS[next].name}</a></p>
    {:else if step === 'verify' && !beyond && condition.steps.verify.state === 'done' && watched.level === 'open'}
      <p><a class="btn btn-primary btn-sm" href="?step=watch">Next: Watch</a></p>
    {/if}
  </div>
</div>
