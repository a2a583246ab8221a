<script lang="ts">
  import type { Box } from '$core/geometry/box';
  import type { Chart } from '$lib/calibration';
  import type { DocketChoices } from '$lib/docket-choices';
  import {
    COUNTS,
    LETTERS,
    MOST_VARIANTS,
    VARIANT_KINDS,
    VARIANT_WORDS,
    variantsOf,
    type Variant,
    type VariantKind
  } from '$lib/variants';
  import ChartWork from '$lib/ui/colour/ChartWork.svelte';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';

  /** A part of the artwork in variants of its tone, printed with letters under them, and the one that is kept. */
  let {
    docketId,
    conditionId,
    choices,
    strip,
    part,
    choosing,
    onchoosing,
    onpart,
    onkeep
  }: {
    docketId: number;
    conditionId: number;
    choices: DocketChoices;
    /** The newest that was made. */
    strip: Chart | null;
    /** mm of the finished size. */
    part: Box;
    choosing: boolean;
    onchoosing: (on: boolean) => void;
    onpart: (part: Box) => void;
    onkeep: (variant: Variant, letter: string) => void;
  } = $props();

  let kind = $state<VariantKind>('between');
  let count = $state(5);
  let letter = $state('');

  const variants = $derived(variantsOf(kind, count, choices));
  const kept = $derived(strip?.variants[[...LETTERS].indexOf(letter.trim().toUpperCase())]);
  const SIDES = [
    ['x', 'from the left'],
    ['y', 'from the top'],
    ['width', 'wide'],
    ['height', 'high']
  ] as const;
</script>

<section aria-label="Variants on film" class="space-y-2 text-sm">
  <h2 class="panel-title">Variants on film</h2>
  <p class="leading-7">
    Print
    <FigureBox
      sentence
      label="How many variants"
      min={2}
      max={MOST_VARIANTS}
      disabled={COUNTS[kind] !== undefined}
      value={COUNTS[kind] ?? count}
      onchange={(n) => (count = n)}
    />
    variants,
    <select class="in-sentence" aria-label="Variants" bind:value={kind}
      >{#each VARIANT_KINDS as one (one)}<option value={one}>{VARIANT_WORDS[one]}</option>{/each}</select
    >, of a part
    {#each SIDES as [side, words], i (side)}{i > 0 ? ', ' : ''}<LengthBox
        sentence
        label="Part {words}"
        unit="mm"
        value={part[side]}
        max={50_000}
        onchange={(mm) => onpart({ ...part, [side]: mm })}
      />
      {words}{/each}.
    <button class="btn btn-xs" aria-pressed={choosing} onclick={() => onchoosing(!choosing)}
      >{choosing ? 'Drag over the part' : 'Choose it on the picture'}</button
    >
  </p>
  <ChartWork
    {conditionId}
    request={{ part, variants }}
    chart={strip ?? undefined}
    needs={undefined}
    own={{ address: `/api/dockets/${docketId}/variants`, what: 'strip', isRead: false }}
  />
  {#if strip && strip.variants.length > 0}
    <ol class="grid grid-cols-[1.5rem_1fr] gap-y-0.5" aria-label="Variants of the strip">
      {#each strip.variants as { words }, i (i)}<li class="contents">
          <span class="font-semibold">{LETTERS[i]}</span><span>{words}</span>
        </li>{/each}
    </ol>
    <form
      class="flex items-end gap-2"
      onsubmit={(event) => {
        event.preventDefault();
        if (kept) onkeep(kept, letter.trim().toUpperCase());
        letter = '';
      }}
    >
      <label>The best is<input class="input input-sm block w-16 uppercase" maxlength="1" bind:value={letter} /></label>
      <button class="btn btn-primary btn-sm" disabled={!kept}>{kept ? `Keep ${letter.trim().toUpperCase()}` : 'Keep it'}</button>
    </form>
  {/if}
</section>
