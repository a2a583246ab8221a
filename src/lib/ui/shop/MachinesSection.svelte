<script lang="ts">
  import { toast } from 'svelte-sonner';
  import { page } from '$app/state';
  import type { AwayMachine } from '$lib/server/machines/machine-shelf';
  import type { Machine } from '$lib/server/machines/machines';
  import type { Removed } from '$lib/server/platform/removed';
  import { attempt, send } from '$lib/ui/common/client';
  import { once } from '$lib/ui/common/once';
  import { leftBehind } from '$lib/ui/common/removed';
  import type { CutterAbilities } from '$protocol/cutter';
  import InkPrices from './InkPrices.svelte';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import { widthOf } from '$lib/ui/common/shop-unit';

  /** The shop's machines: added, renamed, moved to another address, and no longer had. */
  interface Props {
    machines: readonly Machine[];
    away: readonly AwayMachine[];
    /** By printer. */
    inks: Readonly<Record<number, readonly { name: string; colour: string; price: number | null }[]>>;
    settings: { currency: string; inkCostPerMl: number };
  }
  let { machines, away, inks, settings }: Props = $props();

  let machine = $state({ kind: 'printer', name: '', url: '' });
  async function addMachine(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const given = { ...machine };
    // Empty at once, so that the next machine can be typed while this one is being asked who it is.
    machine = { ...machine, name: '', url: '' };
    if (!(await attempt(() => send('POST', '/api/machines', given), `${given.name} is added.`)) && !machine.name) machine = given;
  }

  /** One that is renamed, or is at another address. */
  let changing = $state<{ id: number; name: string; url: string }>();
  async function changeMachine(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const { id, name, url } = changing!;
    if (await attempt(() => send('PUT', `/api/machines/${id}`, { name, url }), 'Kept.')) changing = undefined;
  }
  /** By machine that was put away, where it is now, as far as that was typed. */
  let backAt = $state<Record<number, string>>({});
  const bringBack = ({ id, name, url }: AwayMachine) =>
    attempt(() => send('POST', `/api/machines/${id}/back`, { url: backAt[id] ?? url }), `${name} is back.`);
  const removeMachine = (one: Machine) =>
    attempt(async () => {
      const removed = await send<Removed>('DELETE', `/api/machines/${one.id}`);
      const again = { kind: one.kind, name: one.name, url: one.url };
      if (removed.is === 'deleted')
        return void toast.success(`${one.name} is deleted: nothing was done with it.`, {
          action: {
            label: 'Take back',
            onClick: () => void attempt(() => send('POST', '/api/machines', again), `${one.name} is back.`)
          }
        });
      toast.success(`${one.name} is put away.${leftBehind(removed)}`, {
        action: { label: 'Take back', onClick: () => void bringBack(one) }
      });
    });

  /** What a cutter can do, as it says. */
  const abilitiesOf = ({ bed, widthMm, reachMm, blades, cutsRolls, languages }: CutterAbilities): string =>
    [
      bed === 'roll' ? 'rolls' : 'sheets',
      widthMm !== null && `up to ${widthOf(widthMm)} wide`,
      reachMm !== null && `held by ${widthOf(reachMm)}`,
      blades.join(', '),
      cutsRolls && 'cuts a roll to its end',
      languages.join(', ')
    ]
      .filter(Boolean)
      .join('; ');
  /** Keys that were just made: they are not kept, and shown once. */
  const keys = $state<Record<number, string>>({});
  const newKey = once((id: number) =>
    attempt(async () => {
      keys[id] = (await send<{ key: string }>('POST', `/api/cutters/${id}/key`)).key;
    })
  );
  const setHour = (id: number, costPerHour: number) => attempt(() => send('PUT', `/api/machines/${id}`, { costPerHour }));
</script>

<section aria-label="Machines" class="space-y-3">
  <h2 class="text-lg font-semibold">Machines</h2>
  <ul class="space-y-1 text-sm">
    {#each machines as one (one.id)}
      <li id="machine-{one.id}" class="border-base-300 flex flex-wrap items-center gap-2 border-b py-1">
        <span class="basis-full"
          ><span class="font-semibold">{one.name}</span>, {one.kind}, {one.url}{one.cutter
            ? `: ${abilitiesOf(one.cutter.abilities)}`
            : ''}{#if one.printer?.page}, <a class="link" href={one.printer.page} target="_blank" rel="noreferrer">its own page</a
            >{/if}</span
        >
        {#if one.kind === 'printer'}
          <label class="flex items-center gap-1"
            ><FigureBox
              class="input input-sm w-20 text-right"
              label="Cost of an hour of {one.name}"
              decimals={2}
              max={10_000}
              late
              value={one.costPerHour}
              onchange={(cost) => setHour(one.id, cost)}
            />{settings.currency} an hour</label
          >
        {/if}
        {#if one.kind === 'cutter'}
          {@const shown = keys[one.id]}
          {#if shown}
            <label class="order-last basis-full text-xs"
              >Key, shown this once<input
                class="input input-sm w-full font-mono"
                aria-label="Key of {one.name}"
                readonly
                value={shown}
                onfocus={(event) => event.currentTarget.select()}
              /></label
            >
          {:else}
            <button
              class="btn btn-xs"
              title="Its computer asks for lines at {page.url.origin}/api/cutter/… with this key. The one before is good no more."
              onclick={() => newKey(one.id)}>New key</button
            >
          {/if}
        {/if}
        <span class:text-error={!one.online}>{one.online ? 'answers' : 'not reachable'}</span>
        <span class="ml-auto flex gap-1">
          <button
            class="btn btn-xs"
            aria-label="Change {one.name}"
            aria-expanded={changing?.id === one.id}
            onclick={() => (changing = changing?.id === one.id ? undefined : { id: one.id, name: one.name, url: one.url })}
            >Change</button
          >
          <button
            class="btn btn-xs"
            aria-label="Remove {one.name}"
            title="What it printed and was measured with stays known"
            onclick={() => removeMachine(one)}>Remove</button
          >
        </span>
        {#if inks[one.id]}
          <InkPrices machine={one} inks={inks[one.id]!} usual={settings.inkCostPerMl} currency={settings.currency} />
        {/if}
        {#if changing?.id === one.id}
          <form class="flex basis-full flex-wrap items-end gap-2" onsubmit={changeMachine} aria-label="Change {one.name}">
            <label class="text-sm"
              >Name<input class="input input-sm flex w-32" bind:value={changing.name} required maxlength="60" /></label
            >
            <label class="text-sm"
              >Address<input class="input input-sm flex w-52" bind:value={changing.url} required maxlength="300" /></label
            >
            <button class="btn btn-sm btn-primary">Keep</button>
          </form>
        {/if}
      </li>
    {:else}
      <li>No machines yet. Give the address at which a printer speaks IPP, or a cutter or instrument answers.</li>
    {/each}
  </ul>
  {#if away.length > 0}
    <h3 class="text-sm font-semibold">No longer in the shop</h3>
    <ul class="space-y-1 text-sm">
      {#each away as one (one.id)}
        <li class="flex flex-wrap items-center gap-2">
          {one.name}, {one.kind}
          <input
            class="input input-xs ml-auto w-44"
            aria-label="Address of {one.name}"
            maxlength="300"
            bind:value={() => backAt[one.id] ?? one.url, (url) => (backAt[one.id] = url)}
          />
          <button class="btn btn-xs" aria-label="Bring back {one.name}" onclick={() => bringBack(one)}>Bring back</button>
        </li>
      {/each}
    </ul>
  {/if}
  <form class="flex flex-wrap items-end gap-2" onsubmit={addMachine} aria-label="Add a machine">
    <label class="text-sm"
      >Kind<select class="select select-sm flex w-28" bind:value={machine.kind}
        ><option value="printer">printer</option><option value="cutter">cutter</option><option value="instrument"
          >instrument</option
        ></select
      ></label
    >
    <label class="text-sm">Name<input class="input input-sm flex w-32" bind:value={machine.name} required maxlength="60" /></label
    >
    <label class="text-sm"
      >Address<input
        class="input input-sm flex w-52"
        placeholder="http://127.0.0.1:8631"
        bind:value={machine.url}
        required
      /></label
    >
    <button class="btn btn-sm btn-primary">Add machine</button>
  </form>
  <p class="text-base-content/70 text-xs">
    Other programs can use the JSON interface; it is listed at <a class="link" href="/api">/api</a>.
  </p>
</section>
