<script lang="ts">
  import Trash from '@lucide/svelte/icons/trash-2';
  import type { MediaCard } from '$core/media/card';

  /** What of a media is in stock; of a locked card too. */
  let { card = $bindable(), onsave }: { card: MediaCard; onsave: () => void } = $props();

  const figure = (event: Event) => Number((event.currentTarget as HTMLInputElement).value);
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
        onchange={(event) => ((roll.widthMm = figure(event)), onsave())}
      />mm ×
      <input
        class="input input-sm w-18 text-right"
        type="number"
        step="0.1"
        aria-label="Length of roll {i + 1}, m"
        value={roll.lengthMm / 1000}
        onchange={(event) => ((roll.lengthMm = figure(event) * 1000), onsave())}
      />m
      <input
        class="input input-sm min-w-0 grow"
        maxlength="40"
        placeholder="batch"
        aria-label="Batch of roll {i + 1}"
        value={roll.batch ?? ''}
        onchange={(event) => ((roll.batch = event.currentTarget.value.trim()), onsave())}
      />
      <button
        class="btn btn-sm btn-ghost btn-square"
        aria-label="Remove roll {i + 1}"
        onclick={() => (card.rolls.splice(i, 1), onsave())}><Trash size={14} /></button
      >
    </div>
  {:else}<p>None.</p>{/each}
  <button class="btn btn-xs mt-1" onclick={() => (card.rolls.push({ widthMm: card.widthMm, lengthMm: 50_000 }), onsave())}
    >Add a roll</button
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
        onchange={(event) => ((sheet.count = figure(event)), onsave())}
      />of
      <input
        class="input input-sm w-18 text-right"
        type="number"
        aria-label="Width of sheets {i + 1}, mm"
        value={sheet.widthMm}
        onchange={(event) => ((sheet.widthMm = figure(event)), onsave())}
      />×
      <input
        class="input input-sm w-18 text-right"
        type="number"
        aria-label="Length of sheets {i + 1}, mm"
        value={sheet.heightMm}
        onchange={(event) => ((sheet.heightMm = figure(event)), onsave())}
      />mm
      <button
        class="btn btn-sm btn-ghost btn-square ml-auto"
        aria-label="Remove sheets {i + 1}"
        onclick={() => (card.sheets.splice(i, 1), onsave())}><Trash size={14} /></button
      >
    </div>
  {:else}<p>None.</p>{/each}
  <button
    class="btn btn-xs mt-1"
    onclick={() => (card.sheets.push({ widthMm: card.widthMm, heightMm: 2000, count: 10 }), onsave())}>Add sheets</button
  >
</section>
