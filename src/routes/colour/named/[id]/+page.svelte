<script lang="ts">
  import Check from '@lucide/svelte/icons/check';
  import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { toast } from 'svelte-sonner';
  import { showLab } from '$core/colour/named-colour';
  import type { ColourOn } from '$lib/named-colours';
  import EditColour from '$lib/ui/colour/EditColour.svelte';
  import ColourOnCondition from '$lib/ui/colour/ColourOnCondition.svelte';
  import Swatches from '$lib/ui/colour/Swatches.svelte';
  import { attempt, send } from '$lib/ui/common/client';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  const { colour } = $derived(data);
  let all = $state<readonly ColourOn[]>([]);
  $effect(() => {
    let isLeft = false;
    void data.later.on.then((on) => {
      if (!isLeft) all = on;
    });
    return () => (isLeft = true);
  });
  const asked = $derived(Number(page.url.searchParams.get('condition')));
  const chosen = $derived(all.find(({ conditionId }) => conditionId === asked) ?? all[0]);
  const conditionOf = (id: number) => data.conditions.find((one) => one.id === id);

  const remove = () =>
    attempt(async () => {
      await send('DELETE', '/api/colours', { ids: [colour.id] });
      await goto('/colour/named');
      toast.success(`${colour.name} is deleted.`, {
        action: {
          label: 'Bring back',
          onClick: () => void attempt(() => send('POST', '/api/colours/back', { ids: [colour.id] }))
        },
        duration: 15_000
      });
    });
</script>

<svelte:head><title>{colour.name}</title></svelte:head>
<div class="grid h-full min-h-0 grid-cols-[20rem_minmax(0,1fr)] max-[1000px]:grid-cols-[14rem_minmax(0,1fr)]">
  <div class="border-base-300 flex min-h-0 flex-col gap-4 overflow-y-auto border-r p-4">
    <div>
      <a class="link text-sm" href="/colour/named">All named colours</a>
      <h1 class="text-lg leading-tight font-semibold">{colour.name}</h1>
    </div>
    <Swatches asked={colour.lab} large />
    {#key colour.id}<EditColour {colour} collections={data.collections} />{/key}
    <p class="text-base-content/70 text-xs">
      The screen shows it as well as it can; strong greens, oranges and blues are beyond it.
    </p>
    <button class="btn btn-sm self-start" onclick={remove}>Delete it</button>
  </div>
  <div class="min-h-0 space-y-5 overflow-auto p-5">
    <section aria-label="On every condition">
      <h2 class="panel-title">On every condition</h2>
      <table class="table-sm table">
        <thead
          ><tr
            ><th class="min-w-44">Condition</th><th>Asked, printed</th><th>Printed, by the model</th><th>Inks C, M, Y, K</th><th
              class="text-right">ΔE00 left</th
            ><th></th></tr
          ></thead
        >
        <tbody>
          {#each all as on (on.conditionId)}
            {@const condition = conditionOf(on.conditionId)}
            <tr class={on === chosen ? 'bg-base-200' : ''}>
              <td
                ><a
                  class="link font-semibold"
                  href="?condition={on.conditionId}"
                  data-sveltekit-noscroll
                  aria-current={on === chosen ? 'true' : undefined}>{condition?.media}</a
                >
                <div class="text-xs">
                  {condition?.machine}, {condition?.mode.name}{condition?.profile === 'start' ? '; as the machine says' : ''}
                </div></td
              >
              {#if on.made}
                <td><Swatches asked={colour.lab} reached={on.made.reached} /></td>
                <td>{showLab(on.made.reached)}</td>
                <td
                  ><span class="whitespace-nowrap">{on.made.inks.map((v) => Math.round(v * 100)).join(', ')} %</span
                  >{#if on.own && !on.own.old}<span class="block text-xs">its own, {on.own.how}</span>{/if}</td
                >
                <td class="text-right font-semibold">{on.made.deltaE.toFixed(2)}</td>
                <td
                  >{#if on.made.isInReach}<span class="text-success inline-flex items-center gap-1 whitespace-nowrap"
                      ><Check size={15} aria-hidden="true" />in reach</span
                    >{:else if on.own && !on.own.old}<span class="inline-flex items-center gap-1">as chosen</span>{:else}<span
                      class="text-warning inline-flex items-center gap-1 whitespace-nowrap"
                      ><TriangleAlert size={15} aria-hidden="true" />out of reach</span
                    >{/if}</td
                >
              {:else}<td colspan="5">Its first profile is being made.</td>{/if}
            </tr>
          {:else}
            <tr><td colspan="6">{data.conditions.length === 0 ? 'There is no printing condition yet.' : 'Reckoning…'}</td></tr>
          {/each}
        </tbody>
      </table>
    </section>
    {#if chosen}
      {@const condition = conditionOf(chosen.conditionId)}
      <section aria-label="On one condition" class="space-y-5">
        <h2 class="text-lg font-semibold">{condition?.media}, {condition?.mode.name} on {condition?.machine}</h2>
        {#key chosen.conditionId}<ColourOnCondition {colour} on={chosen} charts={data.charts} />{/key}
      </section>
    {/if}
  </div>
</div>
