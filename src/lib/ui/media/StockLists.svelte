<script lang="ts">
  import Trash from '@lucide/svelte/icons/trash-2';
  import { Roll, Sheets, type MediaCard } from '$core/media/card';
  import { boundsOf } from '$core/units/bounds';
  import { longUnit } from '$core/units/length';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import { shopUnit } from '$lib/ui/common/shop-unit';

  /** What of a media is in stock; of a locked card too. */
  let { card, onchange }: { card: MediaCard; onchange: (part: Pick<MediaCard, 'rolls'> | Pick<MediaCard, 'sheets'>) => void } =
    $props();

  const unit = $derived(shopUnit());
  const long = $derived(longUnit(unit));
  const setRoll = (place: number, part: Partial<MediaCard['rolls'][number]>) =>
    onchange({ rolls: card.rolls.map((roll, i) => (i === place ? { ...roll, ...part } : roll)) });
  const setSheets = (place: number, part: Partial<MediaCard['sheets'][number]>) =>
    onchange({ sheets: card.sheets.map((sheet, i) => (i === place ? { ...sheet, ...part } : sheet)) });
</script>

<section aria-label="Rolls in stock">
  <h2 class="panel-title">Rolls in stock</h2>
  {#each card.rolls as roll, i (i)}
    <div class="flex items-center gap-1 py-0.5 whitespace-nowrap">
      <LengthBox
        class="input input-sm w-20 px-2 text-right"
        late
        label="Width of roll {i + 1}, {unit}"
        {unit}
        {...boundsOf(Roll.shape.widthMm)}
        value={roll.widthMm}
        onchange={(widthMm) => setRoll(i, { widthMm })}
      />{unit} ×
      <LengthBox
        class="input input-sm w-20 px-2 text-right"
        late
        label="Length of roll {i + 1}, {long}"
        unit={long}
        {...boundsOf(Roll.shape.lengthMm)}
        value={roll.lengthMm}
        onchange={(lengthMm) => setRoll(i, { lengthMm })}
      />{long}
      <input
        class="input input-sm min-w-0 grow"
        maxlength="40"
        placeholder="batch"
        aria-label="Batch of roll {i + 1}"
        value={roll.batch ?? ''}
        onchange={(event) => setRoll(i, { batch: event.currentTarget.value.trim() })}
      />
      <button
        class="btn btn-sm btn-ghost btn-square"
        aria-label="Remove roll {i + 1}"
        onclick={() => onchange({ rolls: card.rolls.filter((_, k) => k !== i) })}><Trash size={14} /></button
      >
    </div>
  {:else}<p>None.</p>{/each}
  <button
    class="btn btn-xs mt-1"
    onclick={() => onchange({ rolls: [...card.rolls, { widthMm: card.widthMm, lengthMm: 50_000 }] })}>Add a roll</button
  >
</section>
<section aria-label="Sheets in stock">
  <h2 class="panel-title">Sheets in stock</h2>
  {#each card.sheets as sheet, i (i)}
    <div class="flex items-center gap-1 py-0.5 whitespace-nowrap">
      <FigureBox
        class="input input-sm w-14 text-right"
        late
        label="Number of sheets {i + 1}"
        {...boundsOf(Sheets.shape.count)}
        value={sheet.count}
        onchange={(count) => setSheets(i, { count })}
      />of
      <LengthBox
        class="input input-sm w-20 px-2 text-right"
        late
        label="Width of sheets {i + 1}, {unit}"
        {unit}
        {...boundsOf(Sheets.shape.widthMm)}
        value={sheet.widthMm}
        onchange={(widthMm) => setSheets(i, { widthMm })}
      />×
      <LengthBox
        class="input input-sm w-20 px-2 text-right"
        late
        label="Length of sheets {i + 1}, {unit}"
        {unit}
        {...boundsOf(Sheets.shape.heightMm)}
        value={sheet.heightMm}
        onchange={(heightMm) => setSheets(i, { heightMm })}
      />{unit}
      <button
        class="btn btn-sm btn-ghost btn-square ml-auto"
        aria-label="Remove sheets {i + 1}"
        onclick={() => onchange({ sheets: card.sheets.filter((_, k) => k !== i) })}><Trash size={14} /></button
      >
    </div>
  {:else}<p>None.</p>{/each}
  <button
    class="btn btn-xs mt-1"
    onclick={() => onchange({ sheets: [...card.sheets, { widthMm: card.widthMm, heightMm: 2000, count: 10 }] })}
    >Add sheets</button
  >
</section>
