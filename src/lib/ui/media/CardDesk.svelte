<script lang="ts">
  import Lock from '@lucide/svelte/icons/lock';
  import { untrack } from 'svelte';
  import { toast } from 'svelte-sonner';
  import { goto } from '$app/navigation';
  import { BLACKS, BODIES, FAMILIES, HANDLING_WORDS, SURFACES, type Handling, type MediaCard } from '$core/media/card';
  import { TOOLS } from '$core/artwork/roles';
  import { checkHandling, suggestHandling, type HandlingTable } from '$core/media/handling';
  import type { Condition } from '$lib/server/conditions/condition';
  import type { Media } from '$lib/server/media/cards';
  import { screenColour } from '$lib/ui/colour/show';
  import { isBehindDialog } from '$lib/ui/frame/places';
  import type { Removed } from '$lib/server/platform/removed';
  import { attempt, isAway, Refusal, send } from '$lib/ui/common/client';
  import { once } from '$lib/ui/common/once';
  import { leftBehind } from '$lib/ui/common/removed';
  import StockLists from './StockLists.svelte';

  let {
    media,
    tables,
    conditions,
    currency
  }: { media: Media; tables: HandlingTable[]; conditions: Condition[]; currency: string } = $props();

  let card = $state<MediaCard>(untrack(() => structuredClone($state.snapshot(media.card)) as MediaCard));
  let version = untrack(() => media.version);
  let saving = 0;
  let said = $state('');
  const past: string[] = [];
  let before = untrack(() => JSON.stringify(card));
  /** As the server has it, as far as that is known here. */
  let kept = untrack(() => before);
  let steps = $state(0);
  let machine = $state(untrack(() => Object.keys(card.handling)[0] ?? tables[0]?.machine ?? ''));

  // News from elsewhere, as a white that was measured, comes in where nothing is being saved.
  $effect(() => {
    const { version: newer, card: theirs } = media;
    untrack(() => {
      if (saving === 0 && (newer > version || theirs.white?.join() !== card.white?.join())) {
        card = structuredClone($state.snapshot(theirs)) as MediaCard;
        kept = before = JSON.stringify(card);
        version = newer;
      }
    });
  });

  const mine = $derived(conditions.filter((one) => one.mediaId === media.id));
  const table = $derived(tables.find((one) => one.machine === machine));
  const row = $derived(table && suggestHandling(table, card.family, card.thicknessMm));
  const looks = $derived(tables.flatMap((one) => checkHandling(one, card)));
  const handling = $derived(card.handling[machine]);

  /** Where print modes for this card are found. */
  const finder = $derived.by(() => {
    const [machine] = Object.keys(card.handling);
    const params = { card: String(media.id), family: card.family, ...(machine !== undefined && { machine }) };
    return `/colour/modes?${new URLSearchParams(params).toString()}`;
  });

  let queue = Promise.resolve();
  /** Every change saves itself; what was there before can be taken back. */
  function save(): void {
    const now = JSON.stringify(card);
    if (now === before) return;
    past.push(before);
    steps = past.length;
    before = now;
    put();
  }
  function put(): void {
    saving++;
    queue = queue.then(async () => {
      const sent = JSON.parse(before) as MediaCard;
      try {
        // What waited behind another is saved with it.
        if (before !== kept) ({ version } = await send<Media>('PUT', `/api/media/${media.id}`, { version, card: sent }));
        kept = JSON.stringify(sent);
        said = 'Saved';
      } catch (error) {
        said = error instanceof Refusal ? error.message : 'It could not be saved.';
        // What was typed while the server is away is sent again; what another window changed is shown.
        if (isAway(error)) setTimeout(put, 2000);
        else if (error instanceof Refusal) await showNewest(sent);
      }
      saving--;
    });
  }
  /** What another window changed is shown; what was refused is as it was, and what was typed since it was sent stays. */
  async function showNewest(sent: MediaCard): Promise<void> {
    const newest = await send<Media>('GET', `/api/media/${media.id}`).catch(() => undefined);
    if (!newest) return;
    const typed = newest.version === version ? typedSince(sent) : {};
    ({ version } = newest);
    kept = before = JSON.stringify(newest.card);
    card = { ...newest.card, ...typed };
    if (JSON.stringify(card) !== before) save();
  }
  function typedSince(sent: MediaCard): Partial<MediaCard> {
    const isTyped = ([key, value]: [string, unknown]) => JSON.stringify(value) !== JSON.stringify(sent[key as keyof MediaCard]);
    return Object.fromEntries(Object.entries($state.snapshot(card)).filter(isTyped)) as Partial<MediaCard>;
  }
  function takeBack(): void {
    const last = past.pop();
    steps = past.length;
    if (!last) return;
    card = JSON.parse(last) as MediaCard;
    before = last;
    put();
  }
  function keys(event: KeyboardEvent): void {
    if (isBehindDialog()) return;
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z' && !(event.target instanceof HTMLInputElement)) {
      event.preventDefault();
      takeBack();
    }
  }
  function set(key: keyof Handling, value: unknown): void {
    if (handling) card.handling[machine] = { ...handling, [key]: value };
    save();
  }
  const copy = once(() =>
    attempt(async () => {
      const made = await send<Media>('POST', `/api/media/${media.id}/copy`);
      await goto(`/media/${made.id}`);
    }, 'A copy that can be changed.')
  );
  const bringBack = () => attempt(() => send('POST', `/api/media/${media.id}/back`), `${card.name} is back.`);
  const remove = () =>
    attempt(async () => {
      await queue;
      const was = $state.snapshot(card) as MediaCard;
      const removed = await send<Removed>('DELETE', `/api/media/${media.id}`);
      if (removed.is === 'put away')
        return void toast.success(`${was.name} is put away.${leftBehind(removed)}`, {
          action: { label: 'Take back', onClick: () => void bringBack() }
        });
      const { library } = media;
      const makeAnew = () =>
        attempt(
          () => (library ? send('POST', '/api/library', { id: library.id }) : send('POST', '/api/media', was)),
          `${was.name} is back.`
        );
      toast.success(`${was.name} is deleted: nothing was printed or measured on it.`, {
        action: { label: 'Take back', onClick: () => void makeAnew() }
      });
      await goto('/media');
    });
  const figure = (event: Event) => Number((event.currentTarget as HTMLInputElement).value);
  const FIELDS: { key: 'widthMm' | 'thicknessMm' | 'costPerM2'; words: string; step: number }[] = [
    { key: 'widthMm', words: 'Width, mm', step: 1 },
    { key: 'thicknessMm', words: 'Thickness, mm', step: 0.01 },
    { key: 'costPerM2', words: 'Cost a m²', step: 0.05 }
  ];
</script>

<svelte:window onkeydown={keys} />

{#snippet removal()}
  {#if !media.away}<button class="btn btn-xs" title="What was printed and measured on it stays known" onclick={remove}
      >Remove</button
    >{/if}
{/snippet}

<div class="grid max-w-[1500px] grid-cols-[22rem_1fr] gap-8 p-5">
  <section class="space-y-3 text-sm" aria-label="The media">
    <a class="link" href="/media">All media</a>
    <h1 class="text-xl leading-tight font-semibold">{card.name}</h1>
    {#if media.away}
      <p class="border-warning flex flex-wrap items-center gap-2 border-l-4 pl-3" role="status">
        This media was put away: nothing new is printed on it.
        <button class="btn btn-xs" onclick={bringBack}>Bring it back</button>
      </p>
    {/if}
    {#if media.locked}
      <p class="flex items-center gap-2">
        <Lock size={15} aria-hidden="true" />Locked: it came as it is{media.library ? `, edition ${media.library.version}` : ''}.
        <button class="btn btn-sm btn-primary" onclick={copy}>Copy to change</button>
        {@render removal()}
      </p>
    {:else}
      <p class="flex items-center gap-2">
        <span role="status" class={said && said !== 'Saved' ? 'text-error' : 'text-base-content/70'}
          >{said || 'Changes save themselves.'}</span
        >
        <button class="btn btn-xs" disabled={steps === 0} onclick={takeBack}>Take back</button>
        <button class="btn btn-xs" onclick={copy}>Copy</button>
        {@render removal()}
      </p>
    {/if}
    <fieldset disabled={media.locked} class="space-y-2">
      <label class="block"
        >Name<input class="input input-sm flex w-full" maxlength="80" bind:value={card.name} onchange={save} /></label
      >
      <label class="block"
        >Maker<input class="input input-sm flex w-full" maxlength="80" bind:value={card.maker} onchange={save} /></label
      >
      <div class="grid grid-cols-2 gap-2">
        <label
          >Family<select class="select select-sm flex w-full" bind:value={card.family} onchange={save}
            >{#each FAMILIES as one (one)}<option>{one}</option>{/each}</select
          ></label
        >
        <label
          >Surface<select class="select select-sm flex w-full" bind:value={card.surface} onchange={save}
            >{#each SURFACES as one (one)}<option>{one}</option>{/each}</select
          ></label
        >
        <label
          >Body<select class="select select-sm flex w-full" bind:value={card.body} onchange={save}
            >{#each BODIES as one (one)}<option>{one}</option>{/each}</select
          ></label
        >
        <label
          >Printed on its<select class="select select-sm flex w-full" bind:value={card.printedSide} onchange={save}
            ><option value="face">face</option><option value="back">back, seen through it</option></select
          ></label
        >
        <label class="flex items-center gap-2"
          >Colour<input
            type="color"
            class="h-6 w-10 cursor-pointer"
            aria-label="Colour of the media"
            bind:value={card.colour}
            onchange={save}
          /></label
        >
        <label
          >Black ink<select class="select select-sm flex w-full" bind:value={card.black} onchange={save}
            >{#each BLACKS as one (one)}<option>{one}</option>{/each}</select
          ></label
        >
        <label class="flex items-center gap-2"
          ><input type="checkbox" class="checkbox checkbox-sm" bind:checked={card.primer} onchange={save} />Needs primer</label
        >
      </div>
      <div class="grid grid-cols-3 gap-2">
        {#each FIELDS as { key, words, step } (key)}
          <label
            >{key === 'costPerM2' ? `${words}, ${currency}` : words}<input
              class="input input-sm flex w-full text-right"
              type="number"
              {step}
              bind:value={card[key]}
              onchange={save}
            /></label
          >
        {/each}
      </div>
      <label class="block"
        >Note<textarea class="textarea textarea-sm flex w-full" rows="2" bind:value={card.note} onchange={save}></textarea></label
      >
    </fieldset>
    <StockLists bind:card onsave={save} />
    <div class="flex items-center gap-2">
      <h2 class="panel-title">White</h2>
      {#if card.white}
        <span class="border-base-content/30 h-6 w-6 border" style:background={screenColour(card.white)}></span>
        L* {card.white[0].toFixed(1)}, a* {card.white[1].toFixed(1)}, b* {card.white[2].toFixed(1)}, measured
      {:else}not measured yet: the first chart does that{/if}
    </div>
    <div>
      <h2 class="panel-title">Knives</h2>
      {#each Object.entries(card.knives) as [cutter, knives] (cutter)}
        <p class="text-xs">
          <span class="font-semibold">{cutter}</span>: {TOOLS.map((tool) => {
            const { blade, force, speed, passes } = knives[tool];
            return `${tool} by ${blade}, ${force} g, ${speed} cm/s${passes > 1 ? `, ${passes} times` : ''}`;
          }).join('; ')}.
        </p>
      {:else}
        <p class="text-base-content/70 text-xs">As usual. What is set on a cut of this media is kept here, by cutter.</p>
      {/each}
    </div>
    <div>
      <h2 class="panel-title">Conditions</h2>
      {#each mine as one (one.id)}<p>
          <a class="link inline-block py-1" href="/colour/{one.id}">{one.machine}, {one.mode.name}</a>
        </p>{:else}<p>
          {media.away && media.conditions > 0
            ? `${media.conditions === 1 ? 'One comes' : `${media.conditions} come`} back with it.`
            : 'None yet.'}
        </p>{/each}
      {#if !media.away}<a class="btn btn-sm mt-1" href={finder}>Find a print mode for it</a>{/if}
    </div>
  </section>

  <section class="space-y-3" aria-label="Handling">
    <div class="flex items-center gap-3">
      <h2 class="text-lg font-semibold">Handling</h2>
      <div class="join">
        {#each [...new Set([...Object.keys(card.handling), ...tables.map((one) => one.machine)])] as one (one)}
          <button
            class="btn btn-sm join-item {one === machine ? 'btn-active' : ''}"
            aria-pressed={one === machine}
            onclick={() => (machine = one)}>{one}</button
          >
        {/each}
      </div>
      {#if handling && !media.locked}
        <button
          class="btn btn-sm btn-ghost"
          onclick={() => {
            card.handling = Object.fromEntries(Object.entries(card.handling).filter(([name]) => name !== machine));
            save();
          }}>Not for this machine</button
        >
      {/if}
    </div>
    {#if handling}
      <table class="table-sm table max-w-3xl">
        <thead><tr><th>Setting</th><th>Here</th><th>{machine} suggests</th><th>Usual</th><th></th></tr></thead>
        <tbody>
          {#each Object.entries(HANDLING_WORDS) as [key, { words, unit, step }] (key)}
            {@const value = handling[key as keyof Handling]}
            {@const suggested = row?.handling[key as keyof Handling]}
            {@const usual = row?.usual[key as keyof Handling]}
            {@const look = looks.find((one) => one.machine === machine && one.field === key)}
            <tr class={look ? 'bg-warning/15' : ''}>
              <th scope="row" class="font-normal">{words}</th>
              <td>
                {#if typeof value === 'number'}
                  <input
                    class="input input-xs w-20 text-right"
                    type="number"
                    {step}
                    {value}
                    disabled={media.locked}
                    aria-label={words}
                    onchange={(event) => set(key as keyof Handling, figure(event))}
                  />
                  {unit}
                {:else if typeof value === 'boolean'}
                  <input
                    type="checkbox"
                    class="checkbox checkbox-sm"
                    checked={value}
                    disabled={media.locked}
                    aria-label={words}
                    onchange={(event) => set(key as keyof Handling, event.currentTarget.checked)}
                  />
                {:else}
                  <select
                    class="select select-xs w-36"
                    {value}
                    disabled={media.locked}
                    aria-label={words}
                    onchange={(event) => set(key as keyof Handling, event.currentTarget.value)}
                  >
                    {#each key === 'cutOff' ? ['blade', 'by hand', 'none'] : ['off', 'print side in', 'print side out'] as one (one)}<option
                        >{one}</option
                      >{/each}
                  </select>
                {/if}
              </td>
              <td
                >{suggested === undefined
                  ? ''
                  : typeof suggested === 'boolean'
                    ? suggested
                      ? 'yes'
                      : 'no'
                    : `${suggested} ${unit}`}</td
              >
              <td>{usual ? `${usual[0]} – ${usual[1]} ${unit}` : ''}</td>
              <td class="text-warning">{look ? 'look' : ''}</td>
            </tr>
          {/each}
        </tbody>
      </table>
      {#each looks.filter((one) => one.machine === machine) as look (look.field)}<p class="text-sm">{look.text}</p>{/each}
    {:else if table}
      <p>
        This media is not for {machine} yet.
        {#if !media.locked}<button
            class="btn btn-sm btn-primary"
            disabled={!row}
            onclick={() => {
              if (row) card.handling[machine] = { ...row.handling };
              save();
            }}>Take what {machine} suggests</button
          >{/if}
        {row ? '' : `${machine} has no suggestion for ${card.family} of ${card.thicknessMm} mm.`}
      </p>
    {:else}
      <p>No machine in the shop yet. A printer brings its table of suggestions when it is added.</p>
    {/if}
    {#if table}
      <details>
        <summary class="cursor-pointer text-sm">The whole table of {machine}</summary>
        <table class="table-xs table max-w-4xl">
          <thead
            ><tr
              ><th>Families</th><th>Thickness, mm</th
              >{#each ['headGapMm', 'vacuumPercent', 'feedTensionN', 'platenHeatC', 'dryHeatC', 'marginMm'] as const as key (key)}<th
                  class="text-right">{HANDLING_WORDS[key].words}, {HANDLING_WORDS[key].unit}</th
                >{/each}</tr
            ></thead
          >
          <tbody>
            {#each table.rows as one (one)}
              <tr class={one === row ? 'bg-base-300 font-semibold' : ''}
                ><td>{one.families.join(', ')}</td><td>{one.thickness[0]} – {one.thickness[1]}</td
                >{#each ['headGapMm', 'vacuumPercent', 'feedTensionN', 'platenHeatC', 'dryHeatC', 'marginMm'] as const as key (key)}<td
                    class="text-right">{one.handling[key]}</td
                  >{/each}</tr
              >
            {/each}
          </tbody>
        </table>
      </details>
    {/if}
  </section>
</div>
