<script lang="ts">
  import type { FinishedSize } from '$core/artwork/preparation';
  import type { RecordChoices } from '$core/records/choices';
  import type { Field } from '$core/records/field';
  import type { FoundArea } from '$core/records/found-areas';
  import type { ShopSettings } from '$lib/shop-settings';
  import FieldPanel from './FieldPanel.svelte';
  import RecordAlone from './RecordAlone.svelte';
  import { exampleOf } from './example';
  import type { FieldWork } from './field-work.svelte';
  import type { RecordShown } from './record-shown.svelte';

  /** The fields of a docket by name, the chosen one with all that it is, and new ones. */
  interface Props {
    work: FieldWork;
    shown: RecordShown;
    records: RecordChoices;
    size: FinishedSize;
    /** Places that the artwork keeps for fields. */
    areas: readonly FoundArea[];
    settings: Pick<ShopSettings, 'unit' | 'lists'>;
    faces: readonly string[];
    onareas: () => void;
    /** Nothing of single records any more. */
    onalike: () => void;
  }
  const { work, shown, records, size, areas, settings, faces, onareas, onalike }: Props = $props();

  const free = $derived(work.freeOf(areas));
  const record = $derived(shown.number);
  const NAMED = 8;
  const LINKED = 20;
  const KINDS: [Field['is'], string][] = [
    ['text', 'New lettering'],
    ['code', 'New code'],
    ['picture', 'New picture']
  ];
  const example = (of: Field) => exampleOf(of, records, shown.row?.cells ?? [], shown.row?.place ?? 0, settings.lists);
</script>

<section aria-label="Fields" class="space-y-2">
  <h2 class="panel-title">Fields</h2>
  {#if records.fields.length === 0}
    <p class="text-base-content/80 text-sm">
      Places on the piece that each record fills with lettering, a code or a picture of its own.
    </p>
  {/if}
  {#if free.length > 0}
    <p class="text-sm">
      The artwork keeps {free.length === 1 ? 'a place' : `${free.length} places`} free: {free
        .slice(0, NAMED)
        .map(({ name }) => name)
        .join(', ')}{free.length > NAMED ? '…' : ''}.
      <button class="btn btn-xs" onclick={onareas}>{free.length === 1 ? 'Make it a field' : 'Make them fields'}</button>
    </p>
  {/if}
  <ul class="text-sm">
    {#each work.shown as one, i (one.id)}
      {@const forAll = records.fields[i]}
      <li class="border-base-300 border-b" id="field-{one.id}">
        <button
          class="flex w-full items-baseline gap-2 py-1 text-left {one.id === work.chosen ? 'font-semibold' : ''}"
          aria-expanded={one.id === work.chosen}
          onclick={() => (work.chosen = one.id === work.chosen ? null : one.id)}
          ><span class="max-w-36 shrink-0 truncate">{one.name}</span><span class="text-base-content/70 truncate font-normal"
            >{one.is === 'code' ? `${one.kind}: ` : one.is === 'picture' ? 'Picture: ' : ''}{one.content}</span
          ></button
        >
        {#if one.id === work.chosen && forAll}
          <div class="border-primary mb-2 border-l-4 pl-2">
            {#if record !== null}
              <RecordAlone
                {record}
                own={work.own}
                bind:alone={work.alone}
                others={example(forAll)}
                onsay={(text) => work.sayAlone(text)}
                onback={() => work.takeBack()}
              />
            {/if}
            <FieldPanel
              field={work.alone ? one : forAll}
              columns={records.table?.columns ?? []}
              lists={settings.lists.map((list) => list.name)}
              {faces}
              unit={settings.unit}
              {size}
              example={example(one)}
              others={(work.alone ? work.shown : records.fields).filter(({ id }) => id !== one.id)}
              onchange={(next) => work.keep(next)}
              oncopy={() => work.copy()}
              onremove={() => work.remove(one.id)}
            />
          </div>
        {/if}
      </li>
    {/each}
  </ul>
  <p class="flex flex-wrap gap-2">
    {#each KINDS as [is, label] (is)}
      <button
        class="btn btn-sm"
        aria-pressed={work.drawing === is}
        onclick={() => (work.drawing = work.drawing === is ? null : is)}>{label}</button
      >
    {/each}
  </p>
  {#if records.overrides.length > 0}
    <p class="text-sm">
      {records.overrides.length} of single records:
      {#each [...new Set(records.overrides.map((one) => one.record))].slice(0, LINKED) as number (number)}
        <button class="link mr-1" onclick={() => shown.show(number)}>{number}</button>
      {/each}
      <button class="btn btn-xs" onclick={onalike}>All as the others</button>
    </p>
  {/if}
</section>
