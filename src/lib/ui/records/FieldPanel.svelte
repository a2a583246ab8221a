<script lang="ts">
  import type { CodeField, Field, FieldPlace, PictureField, TextField } from '$core/records/field';
  import { aligned, ALIGNMENTS } from '$core/records/field-placing';
  import type { LengthUnit } from '$core/units/length';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import CodeChoices from './CodeChoices.svelte';
  import ColourChoice from './ColourChoice.svelte';
  import FieldSays from './FieldSays.svelte';
  import LetteringChoices from './LetteringChoices.svelte';
  import PictureChoices from './PictureChoices.svelte';

  interface Props {
    field: Field;
    columns: readonly string[];
    /** Names of the shop's lists. */
    lists: readonly string[];
    faces: readonly string[];
    unit: LengthUnit;
    size: { widthMm: number; heightMm: number };
    /** What it says of the record that is shown. */
    example: string;
    onchange: (field: Field) => void;
    /** The other fields, for lining it up. */
    others: readonly Field[];
    oncopy: () => void;
    onremove: () => void;
  }
  let { field, columns, lists, faces, unit, size, example, others, onchange, oncopy, onremove }: Props = $props();

  const part = (change: Partial<TextField> | Partial<CodeField> | Partial<PictureField>) =>
    onchange({ ...field, ...change } as Field);
  let chosenOther = $state<number>();
  const other = $derived(others.find(({ id }) => id === chosenOther) ?? others[0]);
  const put = (change: Partial<FieldPlace>) => part({ place: { ...field.place, ...change } });
</script>

<div class="space-y-2 text-sm">
  <label class="flex items-center gap-2"
    >Name <input
      class="input input-sm grow"
      maxlength="100"
      value={field.name}
      onchange={(event) => event.currentTarget.value.trim() && part({ name: event.currentTarget.value })}
    /></label
  >
  <FieldSays {field} {columns} {lists} {example} onchange={(content) => part({ content })} />
  {#if field.is === 'code'}
    <CodeChoices {field} {unit} onchange={part} />
  {:else if field.is === 'text'}
    <LetteringChoices {field} {faces} {unit} onchange={part} />
  {:else}
    <PictureChoices {field} onchange={part} />
  {/if}
  {#if field.is !== 'picture'}
    <p class="flex flex-wrap items-center gap-2">
      In <ColourChoice label="Colour" colour={field.colour} onchange={(colour) => part({ colour })} />
    </p>
  {/if}
  <p>
    <LengthBox sentence label="Width" {unit} value={field.place.width} min={0.5} onchange={(width) => put({ width })} /> ×
    <LengthBox sentence label="Height" {unit} value={field.place.height} min={0.5} onchange={(height) => put({ height })} />
    {unit}, <LengthBox sentence label="From the left" {unit} value={field.place.x} min={-50_000} onchange={(x) => put({ x })} /> from
    the left, <LengthBox sentence label="From the top" {unit} value={field.place.y} min={-50_000} onchange={(y) => put({ y })} /> from
    the top, turned
    <FigureBox
      sentence
      label="Turned, degrees"
      unit="°"
      decimals={2}
      min={-360}
      max={360}
      value={field.place.turn}
      onchange={(turn) => put({ turn })}
    />°.
  </p>
  <p class="flex flex-wrap gap-1">
    <button class="btn btn-xs" onclick={() => put({ x: (size.widthMm - field.place.width) / 2 })}>Middle across</button>
    <button class="btn btn-xs" onclick={() => put({ y: (size.heightMm - field.place.height) / 2 })}>Middle down</button>
    {#if others.length > 0}
      <span class="flex flex-wrap items-center gap-1">
        <select
          class="select select-xs w-32"
          aria-label="Line up with"
          value={other?.id}
          onchange={(event) => (chosenOther = Number(event.currentTarget.value))}
        >
          {#each others as one (one.id)}<option value={one.id}>with {one.name}</option>{/each}
        </select>
        {#each ALIGNMENTS as alignment (alignment)}
          <button class="btn btn-xs" onclick={() => other && put(aligned(field.place, other.place, alignment))}
            >{alignment}</button
          >
        {/each}
      </span>
    {/if}
    <button class="btn btn-xs" onclick={oncopy}>Copy it</button>
    <button class="btn btn-xs" onclick={onremove}>Take it out</button>
  </p>
</div>
