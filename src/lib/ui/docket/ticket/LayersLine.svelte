<script lang="ts">
  import { readyStacks, suggestedFor, withStack } from '$core/artwork/docket-stack';
  import type { MediaCard } from '$core/media/card';
  import { formatMl } from '$core/inks/laid-ink';
  import { inkOfAll, type Printed } from '$core/layout/printed-parts';
  import { isPlain, LAYER_INKS, MOST_LAYERS, type Layer, type LayerInk, type Stack } from '$core/inks/stack';
  import { missingInks } from '$core/media/press';
  import { attempt, send } from '$lib/ui/common/client';
  import LayerRow from './LayerRow.svelte';
  import { movedTo, withLayer, withoutLayer } from './layer-words';
  import type { TicketView } from './ticket';

  interface Props {
    view: TicketView;
    /** What of its picture is printed, once that is known. */
    printed: readonly Printed[] | undefined;
    picking: string | null;
    onpick: (id: string) => void;
  }
  let { view, printed, picking, onpick }: Props = $props();

  const { stack, marks, choices, condition, settings } = $derived(view);
  const press = $derived(condition?.press);
  const isMarked = $derived(Object.keys(marks).length > 0);
  const ready = $derived([
    ...(press?.media.stack ? [{ name: `As ${press.media.name} has it`, what: '', stack: press.media.stack }] : []),
    ...readyStacks(marks)
  ]);
  const suggested = $derived(press && suggestedFor(press.media));
  const lacks = (of: Stack) => (press ? missingInks(of.layers, press) : []);
  const MARKED = 'as the file marks';
  const OWN = 'layers of its own';
  const now = $derived(
    choices.stack === null && isMarked
      ? MARKED
      : (ready.find((one) => JSON.stringify(one.stack) === JSON.stringify(stack))?.name ?? OWN)
  );
  function choose(name: string): void {
    if (name === MARKED) return view.change({ stack: null });
    const one = ready.find((each) => each.name === name);
    if (one) view.change(isPlain(one.stack) && !isMarked ? { ...withStack(one.stack), stack: null } : withStack(one.stack));
  }
  const set = (next: Stack) => view.change({ stack: next });
  const change = (id: number, part: Partial<Layer>) =>
    set({ ...stack, layers: stack.layers.map((layer) => (layer.id === id ? { ...layer, ...part } : layer)) });
  const placeOf = (id: number) => stack.layers.findIndex((layer) => layer.id === id);

  let held = $state<number | null>(null);
  function dropOn(id: number): void {
    if (held !== null && held !== id) set(movedTo(stack, held, placeOf(id)));
    held = null;
  }

  /** ml and money that a layer takes: for all copies, and of one that is divided for those in its run. */
  function takes(layer: Layer): string {
    const laid = view.laid?.find(({ id }) => id === layer.id);
    if (!laid || !condition || !printed) return '';
    const { ml, cost } = inkOfAll(printed, [laid], condition, settings.inkCostPerMl);
    return `${formatMl(ml)}, ${settings.currency}${cost.toFixed(2)}`;
  }
  /** The media's card has these layers from now on, so that other dockets on it can take them. */
  const keepForMedia = () =>
    attempt(
      async () => {
        if (!condition) return;
        const { card, version } = await send<{ card: MediaCard; version: number }>('GET', `/api/media/${condition.mediaId}`);
        await send('PUT', `/api/media/${condition.mediaId}`, { version, card: { ...card, stack } });
      },
      `Dockets on ${condition?.media ?? 'this media'} can take these layers by one choice now.`
    );
  const canAdd = $derived(LAYER_INKS.filter((ink) => ink === 'colour' || !press || (press.channels[ink] ?? 0) > 0));
</script>

<section class="scroll-mt-14" aria-label="Layers of ink">
  <h2 class="panel-title leading-4">Layers of ink</h2>
  <p>
    {condition ? `On ${condition.media}` : 'On the media'}:
    <select class="in-sentence" aria-label="Layers" value={now} onchange={(event) => choose(event.currentTarget.value)}>
      {#if isMarked}<option value={MARKED}>{MARKED}</option>{/if}
      {#if now === OWN}<option value={OWN}>{OWN}</option>{/if}
      {#each ready as one (one.name)}
        {@const missing = lacks(one.stack)}
        <option value={one.name} disabled={missing.length > 0}
          >{one.name.toLowerCase()}{missing.length > 0
            ? ` (no ${missing.join(', no ')} on ${press?.machine})`
            : one.name === suggested
              ? ', as this media suggests'
              : one.what
                ? `, ${one.what}`
                : ''}</option
        >
      {/each}
    </select>{#if !isPlain(stack) || stack.seen !== 'front' || (press && press.media.body !== 'opaque')}, seen
      <select
        class="in-sentence"
        aria-label="Seen"
        value={stack.seen}
        onchange={(event) => {
          const seen = event.currentTarget.value as Stack['seen'];
          view.change(withStack({ ...stack, seen }));
        }}
      >
        <option value="front">from the front</option>
        <option value="behind">from behind</option>
        <option value="both">from both sides</option>
      </select>,
      <select
        class="in-sentence"
        aria-label="Mirrored"
        value={choices.mirror ? 'yes' : 'no'}
        onchange={(event) => view.change({ mirror: event.currentTarget.value === 'yes' })}
      >
        <option value="no">not mirrored</option>
        <option value="yes">mirrored</option>
      </select>{/if}.
  </p>
  {#if !isPlain(stack)}
    <div class="border-base-300 mt-1 border text-sm">
      <!-- Read from the media upwards, as they are laid down. -->
      <ol class="flex flex-col-reverse" aria-label="Layers from the media upwards">
        {#each stack.layers as layer (layer.id)}
          <LayerRow
            {layer}
            {stack}
            unit={settings.unit}
            pages={view.docket.artwork.pages.count}
            page={view.docket.page}
            takes={takes(layer)}
            picking={picking === `layer-${layer.id}`}
            onchange={(part) => change(layer.id, part)}
            onmove={(by) => set(movedTo(stack, layer.id, placeOf(layer.id) + by))}
            ondrag={(on) => (held = on ? layer.id : null)}
            ondropon={() => dropOn(layer.id)}
            onremove={stack.layers.length > 1 ? () => set(withoutLayer(stack, layer.id)) : undefined}
            onpick={() => onpick(`layer-${layer.id}`)}
          />
        {/each}
      </ol>
      <div
        class="border-base-content/60 bg-base-200 flex items-center gap-2 border-t-2 px-2 leading-6"
        style={press && press.media.body !== 'opaque' ? `border-bottom: 4px solid ${press.media.colour}` : ''}
      >
        {condition?.media ?? 'The media'}{press ? `, ${press.media.body}` : ''}
      </div>
    </div>
  {/if}
  <div class="mt-1 flex flex-wrap items-center gap-1 text-sm leading-6">
    {#if stack.layers.length < MOST_LAYERS && (canAdd.length > 1 || !isPlain(stack))}
      Add
      {#each canAdd as ink (ink)}<button
          class="btn btn-xs"
          aria-label="Add a layer of {ink}"
          onclick={() => set(withLayer(stack, ink as LayerInk, marks))}>{ink}</button
        >{/each}
    {/if}
    {#if press && !isPlain(stack) && JSON.stringify(press.media.stack) !== JSON.stringify(stack)}<button
        class="btn btn-xs"
        onclick={keepForMedia}>Keep for {press.media.name}</button
      >{/if}
    {#if press && stack.layers.length > 1}<span class="text-base-content/70 ml-auto text-xs"
        >{stack.layers.length} of {press.layers} layers in one job</span
      >{/if}
  </div>
</section>
