<script lang="ts">
  import { MOST_SERIES } from '$core/records/series';
  import type { LengthUnit } from '$core/units/length';
  import { PRIORITIES, type DocketChoices, type DocketDocument, type ManyChange } from '$lib/docket-choices';
  import type { Condition } from '$lib/server/conditions/condition';
  import type { SharedValues } from '$lib/server/dockets/docket-shelf';
  import { onDestroy } from 'svelte';
  import { attempt, send } from '$lib/ui/common/client';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import { ManySender } from '$lib/ui/docket/many-sender';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';

  interface Props {
    ids: readonly number[];
    /** Changes whenever the dockets may have. */
    seen: unknown;
    conditions: readonly Condition[];
    unit: LengthUnit;
  }
  let { ids, seen, conditions, unit }: Props = $props();

  /** What all of them have; a value is missing where they differ. */
  let values = $state.raw<SharedValues>({});
  let asked = 0;
  $effect(() => {
    void seen;
    const mine = ++asked;
    void send<SharedValues>('POST', '/api/dockets/shared', { ids })
      .then((answer) => {
        if (mine === asked) values = answer;
      })
      .catch(() => undefined);
  });
  const sender = new ManySender((ids, change) => attempt(() => send('PUT', '/api/dockets/many', { ids, change })));
  onDestroy(() => sender.flush());
  const set = (change: ManyChange) => sender.add(ids, change);
  const choose = (choices: ManyChange['choices']) => set({ choices });
  const differ = 'they differ';
</script>

<aside class="border-base-300 w-80 shrink-0 space-y-3 overflow-auto border-l p-4 text-sm" aria-label="Edit together">
  <h2 class="text-lg font-semibold">{ids.length.toLocaleString('en-GB')} dockets together</h2>
  <label class="block"
    >Customer<input
      class="input input-sm flex w-full"
      value={values.customer ?? ''}
      placeholder={values.customer === undefined ? differ : ''}
      maxlength="120"
      onchange={(event) => set({ customer: event.currentTarget.value })}
    /></label
  >
  <div class="flex gap-3">
    <label class="block"
      >Due<input
        class="input input-sm flex w-40"
        type="date"
        value={values.dueOn ?? ''}
        onchange={(event) => set({ dueOn: event.currentTarget.value })}
      /></label
    >
    <label class="block grow"
      >Priority<select
        class="select select-sm flex w-full"
        value={values.priority ?? ''}
        onchange={(event) => set({ priority: event.currentTarget.value as DocketDocument['priority'] })}
      >
        {#if values.priority === undefined}<option value="" disabled>{differ}</option>{/if}
        {#each PRIORITIES as priority (priority)}<option>{priority}</option>{/each}
      </select></label
    >
  </div>
  <label class="block"
    >Note<textarea
      class="textarea textarea-sm flex w-full"
      rows="2"
      maxlength="2000"
      placeholder={values.note === undefined ? differ : ''}
      value={values.note ?? ''}
      onchange={(event) => set({ note: event.currentTarget.value })}></textarea></label
  >
  <label class="block"
    >Media and mode<select
      class="select select-sm flex w-full"
      value={String(values.conditionId ?? '')}
      onchange={(event) => choose({ conditionId: Number(event.currentTarget.value) })}
    >
      {#if (values.conditionId ?? null) === null}<option value="" disabled>{differ}</option>{/if}
      {#each conditions as one (one.id)}<option value={String(one.id)}>{one.media}, {one.mode.name}</option>{/each}
    </select></label
  >
  <label class="block"
    >Rendering intent<select
      class="select select-sm flex w-full"
      value={values.intent ?? ''}
      onchange={(event) => choose({ intent: event.currentTarget.value as DocketChoices['intent'] })}
    >
      {#if values.intent === undefined}<option value="" disabled>{differ}</option>{/if}
      <option value="relative">clipped (relative colorimetric)</option>
      <option value="perceptual">fitted in (perceptual)</option>
      <option value="saturation">kept strong (saturation)</option>
      <option value="file">treated as the file says of each object</option>
    </select></label
  >
  <label class="block"
    >On the roll<select
      class="select select-sm flex w-full"
      value={{ true: 'may', false: 'not' }[String(values.mayTurn)] ?? ''}
      onchange={(event) => choose({ mayTurn: event.currentTarget.value === 'may' })}
    >
      {#if values.mayTurn === undefined}<option value="" disabled>{differ}</option>{/if}
      <option value="may">may be turned a quarter</option><option value="not">stay upright</option>
    </select></label
  >
  <div class="flex items-end gap-4">
    <div>
      <div>Copies{values.copies === undefined ? `, ${differ}` : ''}</div>
      <FigureBox
        label="Copies of all"
        min={1}
        max={MOST_SERIES}
        value={values.copies ?? null}
        onchange={(copies) => choose({ copies })}
      />
    </div>
    <div>
      <div>Bleed, {unit}{values.bleedMm === undefined ? `, ${differ}` : ''}</div>
      <LengthBox
        label="Bleed of all"
        {unit}
        value={values.bleedMm ?? null}
        max={200}
        onchange={(bleedMm) => choose({ bleedMm })}
      />
    </div>
  </div>
  <label class="block"
    >Bleed from<select
      class="select select-sm flex w-full"
      value={values.bleedFrom ?? ''}
      onchange={(event) => choose({ bleedFrom: event.currentTarget.value as DocketChoices['bleedFrom'] })}
    >
      {#if values.bleedFrom === undefined}<option value="" disabled>{differ}</option>{/if}
      <option value="page">what the page has</option>
      <option value="mirror">mirroring the edge</option>
      <option value="stretch">stretching the edge colour</option>
      <option value="colour">a flat colour</option>
    </select></label
  >
  <p class="text-base-content/70">Each can be taken back on its docket.</p>
</aside>
