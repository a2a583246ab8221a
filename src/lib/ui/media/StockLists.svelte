<script lang="ts">
  import Trash from '@lucide/svelte/icons/trash-2';
  import type { MediaCard } from '$core/media/card';

  /** What of a media is in stock; of a locked card too. */
  let { card, onchange }: { card: MediaCard; onchange: (part: Pick<MediaCard, 'rolls'> | Pick<MediaCard, 'sheets'>) => void } =
    $props();

  const setRoll = (place: number, part: Partial<MediaCard['rolls'][number]>) =>
    onchange({ rolls: card.rolls.map((roll, i) => (i === place ? { ...roll, ...part } : roll)) });
  const setSheets = (place: number, part: Partial<MediaCard['sheets'][number]>) =>
    onchange({ sheets: card.sheets.map((sheet, i) => (i === place ? { ...sheet, ...part } : sheet)) });
</script>

<section aria-label="Rolls in stock">
  <h2 class="panel-title">Rolls in stock</h2>
  {#each card.rolls as roll, i (i)}
    <div class="flex items-center gap-1 py-0.5 whitespace-nowrap">
      <input
        class="input input-sm w-18 text-right"
        type="number"
        aria-label="Width of roll {i + 1}, mm"
        value={roll.widthMm}
        onchange={(event) => setRoll(i, { widthMm: event.currentTarget.valueAsNumber })}
      />mm ×
      <input
        class="input input-sm w-18 text-right"
        type="number"
        step="0.1"
        aria-label="Length of roll {i + 1}, m"
        value={roll.lengthMm / 1000}
        onchange={(event) => setRoll(i, { lengthMm: event.currentTarget.valueAsNumber * 1000 })}
      />m
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
      <input
        class="input input-sm w-14 text-right"
        type="number"
        aria-label="Number of sheets {i + 1}"
        value={sheet.count}
        onchange={(event) => setSheets(i, { count: event.currentTarget.valueAsNumber })}
      />of
      <input
        class="input input-sm w-18 text-right"
        type="number"
        aria-label="Width of sheets {i + 1}, mm"
        value={sheet.widthMm}
        onchange={(event) => setSheets(i, { widthMm: event.currentTarget.valueAsNumber })}
      />×
      <input
        class="input input-sm w-18 text-right"
        type="number"
        aria-label="Length of sheets {i + 1}, mm"
        value={sheet.heightMm}
        onchange={(event) => setSheets(i, { heightMm: event.currentTarget.valueAsNumber })}
      />mm
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
