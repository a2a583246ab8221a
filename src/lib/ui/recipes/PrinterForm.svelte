<script lang="ts">
  import { untrack } from 'svelte';
  import type { NetworkPrinter } from '$lib/network-printer';
  import { newKey } from '$lib/ui/common/client';
  import WayOfRecipe from './WayOfRecipe.svelte';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';

  /** A printer for every program, in sentences. */
  let {
    printer,
    recipes,
    conditions,
    port,
    onkeep,
    oncancel
  }: {
    printer: NetworkPrinter | null;
    recipes: readonly { id: number; name: string }[];
    conditions: readonly { id: number; machine: string; media: string; mode: { name: string } }[];
    /** One that is free, for a new one. */
    port: number;
    onkeep: (printer: NetworkPrinter) => Promise<unknown>;
    oncancel: () => void;
  } = $props();

  const NEW: Omit<NetworkPrinter, 'port'> = {
    name: '',
    recipeId: null,
    way: 'make dockets',
    despiteLooks: false,
    draftId: null,
    bestId: null,
    isOpen: false,
    addresses: [],
    key: '',
    isAnnounced: false,
    mostPages: 100,
    mostMb: 2000,
    mostPerMinute: 60,
    isOn: true
  };
  let draft = $state<NetworkPrinter>(untrack(() => ({ ...(printer ?? { ...NEW, port }) })));
  /** As they are typed: by commas, spaces or lines. */
  let addresses = $state(untrack(() => draft.addresses.join(', ')));
  let wrong = $state('');
  let sending = $state(false);
  const words = ({ machine, media, mode }: (typeof conditions)[number]) => `${media}, ${mode.name}, on ${machine}`;

  async function keep(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (sending) return;
    [sending, wrong] = [true, ''];
    try {
      const asked = { ...$state.snapshot(draft), addresses: addresses.split(/[\s,;]+/).filter(Boolean) };
      // What is said of other machines is left out where they do not reach it.
      await onkeep(asked.isOpen ? asked : { ...asked, isAnnounced: false });
    } catch (error) {
      wrong = error instanceof Error ? error.message : String(error);
    }
    sending = false;
  }
</script>

{#snippet most(label: string, key: 'mostPages' | 'mostMb' | 'mostPerMinute', max: number)}
  <FigureBox sentence {label} min={1} {max} value={draft[key]} onchange={(figure) => (draft[key] = figure)} />
{/snippet}

<form class="border-base-300 space-y-2 border p-3 leading-7" onsubmit={keep}>
  <label class="block"
    ><span class="panel-title">Name, as other programs list it</span><input
      class="input input-sm w-full"
      maxlength="60"
      required
      placeholder="Gloss stickers"
      bind:value={draft.name}
      autocomplete="off"
    /></label
  >
  <p>
    What is printed on it
    <WayOfRecipe
      of="printer"
      {recipes}
      bind:recipeId={draft.recipeId}
      bind:way={draft.way}
      bind:despiteLooks={draft.despiteLooks}
    />
  </p>
  <p>
    A draft is
    <select class="in-sentence max-w-full" aria-label="Draft" bind:value={draft.draftId}>
      <option value={null}>not offered</option>
      {#each conditions as condition (condition.id)}<option value={condition.id}>{words(condition)}</option>{/each}
    </select>, a finer print
    <select class="in-sentence max-w-full" aria-label="Finer print" bind:value={draft.bestId}>
      <option value={null}>not offered</option>
      {#each conditions as condition (condition.id)}<option value={condition.id}>{words(condition)}</option>{/each}
    </select>.
  </p>
  <p>
    It is at port
    <FigureBox sentence label="Port" min={1024} max={65_535} value={draft.port} onchange={(port) => (draft.port = port)} />,
    <select class="in-sentence" aria-label="Who reaches it" bind:value={draft.isOpen}>
      <option value={false}>for programs on the server’s own machine</option>
      <option value={true}>also for other machines</option>
    </select>.
  </p>
  {#if draft.isOpen}
    <label class="block"
      ><span class="panel-title">Addresses that may print</span><input
        class="input input-sm w-full"
        placeholder="192.168.1.0/24, 10.0.0.7"
        maxlength="4000"
        bind:value={addresses}
        autocomplete="off"
        spellcheck="false"
      /></label
    >
    <p>
      {#if draft.key}
        Whoever has its address with the key in it may print too.
        <button class="btn btn-xs" type="button" onclick={() => (draft.key = '')}>No key</button>
      {:else}
        Without a key, nobody else may.
        <button
          class="btn btn-xs"
          type="button"
          onclick={() => {
            draft.key = newKey();
            draft.isAnnounced = false;
          }}>Make a key</button
        >
      {/if}
    </p>
    {#if !draft.key}<p>
        <select class="in-sentence" aria-label="Announced" bind:value={draft.isAnnounced}>
          <option value={false}>Other machines are not told of it</option>
          <option value={true}>It is announced to the machines around</option>
        </select>.
      </p>{/if}
  {/if}
  <p>
    A document has at most
    {@render most('Most pages', 'mostPages', 500)}
    pages and
    {@render most('Most megabytes', 'mostMb', 20_000)}
    MB; at most
    {@render most('Most in a minute', 'mostPerMinute', 1000)}
    come in a minute.
  </p>
  {#if wrong}<p class="text-error leading-5" role="alert">{wrong}</p>{/if}
  <div class="flex justify-end gap-2">
    <button class="btn btn-sm" type="button" onclick={oncancel}>Cancel</button>
    <button class="btn btn-sm btn-primary" disabled={draft.name.trim() === '' || sending}
      >{printer ? 'Keep it' : 'Make it'}</button
    >
  </div>
</form>
