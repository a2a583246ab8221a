<script lang="ts">
  import { readLab, showLab, type NamedColour } from '$core/colour/named-colour';
  import type { Triple } from '$core/colour/lab';
  import { attempt, send } from '$lib/ui/common/client';
  import Swatches from './Swatches.svelte';

  /** The fields of a named colour. What was typed stays until it can be saved. */
  let {
    colour,
    collections,
    onsave,
    saveWords
  }: {
    colour: NamedColour;
    collections: readonly string[];
    onsave: (colour: NamedColour) => boolean | Promise<boolean>;
    /** Of a button; without it each field is saved when it is left. */
    saveWords?: string;
  } = $props();

  const id = $props.id();
  let typed = $state<Partial<Record<'name' | 'lab' | 'others' | 'collection' | 'from' | 'note', string>>>({});
  let busy = $state(false);
  const text = $derived({
    name: colour.name,
    lab: colour.name === '' && colour.lab.every((v) => v === 0) ? '' : showLab(colour.lab, 2),
    others: colour.others.join('; '),
    collection: colour.collection,
    from: colour.from,
    note: colour.note,
    ...typed
  });
  /** The text is rounded: what is not typed anew stays as it is. */
  const lab = $derived(typed.lab === undefined && text.lab !== '' ? colour.lab : readLab(text.lab));
  const hindrance = $derived(
    text.name.trim() === ''
      ? 'It needs a name.'
      : !lab
        ? 'L*, a*, b* are three figures: 48.5, 62.1, −33. L* is 0 to 100.'
        : undefined
  );

  async function save(): Promise<void> {
    if (hindrance || !lab || busy) return;
    busy = true;
    const { name, others, collection, from, note } = text;
    const list = others
      .split(';')
      .map((one) => one.trim())
      .filter(Boolean);
    const sent = { ...typed };
    // What was typed since stays.
    if (await onsave({ name, lab, others: list, collection, from, note }))
      typed = Object.fromEntries(Object.entries(typed).filter(([key, value]) => value !== sent[key as keyof typeof sent]));
    busy = false;
  }
  const left = () => {
    if (saveWords === undefined && Object.keys(typed).length > 0) void save();
  };
  const measure = () =>
    attempt(async () => {
      const { lab: seen } = await send<{ lab: Triple }>('POST', '/api/colours/sample');
      typed.lab = showLab(seen, 2);
      left();
    }, 'The sample was measured.');
</script>

<form
  class="space-y-2"
  onsubmit={(event) => {
    event.preventDefault();
    void save();
  }}
>
  <label class="block text-sm"
    >Name<input
      class="input input-sm w-full"
      maxlength="120"
      value={text.name}
      oninput={(event) => (typed.name = event.currentTarget.value)}
      onchange={left}
    /></label
  >
  <label class="block text-sm"
    >L*, a*, b* under D50<span class="flex items-center gap-2"
      ><input
        class="input input-sm grow"
        placeholder="48.5, 62.1, −33"
        value={text.lab}
        aria-invalid={text.lab !== '' && !lab}
        oninput={(event) => (typed.lab = event.currentTarget.value)}
        onchange={left}
      />{#if lab}<Swatches asked={lab} />{/if}</span
    ></label
  >
  <button type="button" class="btn btn-sm" onclick={measure}>Measure a sample</button>
  <label class="block text-sm"
    >Other names, with ; between them<input
      class="input input-sm w-full"
      value={text.others}
      oninput={(event) => (typed.others = event.currentTarget.value)}
      onchange={left}
    /></label
  >
  <div class="grid grid-cols-2 gap-2">
    <label class="block text-sm"
      >Collection<input
        class="input input-sm w-full"
        list="{id}-collections"
        maxlength="80"
        value={text.collection}
        oninput={(event) => (typed.collection = event.currentTarget.value)}
        onchange={left}
      /></label
    >
    <label class="block text-sm"
      >From whom<input
        class="input input-sm w-full"
        maxlength="120"
        value={text.from}
        oninput={(event) => (typed.from = event.currentTarget.value)}
        onchange={left}
      /></label
    >
  </div>
  <datalist id="{id}-collections"
    >{#each collections as one (one)}<option value={one}></option>{/each}</datalist
  >
  <label class="block text-sm"
    >Note<textarea
      class="textarea textarea-sm w-full"
      rows="2"
      maxlength="500"
      value={text.note}
      oninput={(event) => (typed.note = event.currentTarget.value)}
      onchange={left}></textarea></label
  >
  {#if Object.keys(typed).length > 0 && hindrance}<p class="text-error text-sm" role="alert">{hindrance}</p>{/if}
  {#if saveWords !== undefined}
    <button class="btn btn-primary btn-sm" disabled={!!hindrance || busy} title={hindrance}>{saveWords}</button>
  {/if}
</form>
