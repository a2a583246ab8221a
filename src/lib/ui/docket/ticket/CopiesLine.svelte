<script lang="ts">
  import { hasRecords } from '$core/records/choices';
  import { MOST_SERIES } from '$core/records/series';
  import type { TicketFigures } from '../ticket-layout';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import type { TicketView } from './ticket';

  let { view, layout }: { view: TicketView; layout: TicketFigures | undefined } = $props();
  const { choices } = $derived(view);
  /** As it was saved last: a count that is being typed is no other until then. */
  const divided = $derived(choices.copies === view.docket.choices.copies ? view.divided : null);
  const plural = (count: number, word: string) => (count === 1 ? word : `${word}s`);
  const records = $derived(hasRecords(choices.records));
  /** As they were counted when it was saved, where records say how many. */
  const copies = $derived(records ? view.docket.choices.copies : choices.copies);
  const isOnSheets = $derived(view.condition !== undefined && view.condition.sheetMm !== null);
  /** Beside it alone: in its run others lie there. */
  const free = $derived(view.inRun ? 0 : (layout?.free ?? 0));
</script>

<section aria-label="Copies">
  <h2 class="panel-title leading-4">Copies</h2>
  <p>
    {#if records}
      <span class="font-semibold">{copies.toLocaleString('en-GB')}</span>
    {:else}
      <FigureBox
        sentence
        label="Copies"
        min={1}
        max={MOST_SERIES}
        value={choices.copies}
        onchange={(copies) => view.change({ copies })}
      />
    {/if}
    {copies === 1 ? 'copy' : 'copies'}{records ? ', as its records say' : ''}{choices.wall ? ' of every panel.' : ', which'}
    {#if !choices.wall}
      <select
        class="in-sentence"
        aria-label="Turning"
        value={choices.mayTurn ? 'may' : 'not'}
        onchange={(event) => view.change({ mayTurn: event.currentTarget.value === 'may' })}
      >
        <option value="may">may be turned a quarter</option>
        <option value="not">stay upright</option>
      </select>
      on the {isOnSheets ? 'sheet' : 'roll'}.{/if}
    {#if free > 0}<span class="text-base-content/70"
        >{free.toLocaleString('en-GB')} more {isOnSheets ? 'would fit on its sheets' : 'would cost no film'}.</span
      >{/if}
  </p>
  {#if divided && divided.missing > 0}
    <p class="text-warning leading-6" role="status">
      ! {divided.missing.toLocaleString('en-GB')}
      {choices.wall ? plural(divided.missing, 'panel') : 'of them'}
      {divided.missing === 1 ? 'lies' : 'lie'} in no run: it was divided when there were fewer, or left at what had come out.
      <button class="btn btn-xs" onclick={view.layRest}
        >Lay out the other {divided.missing === 1 ? 'one' : divided.missing.toLocaleString('en-GB')}</button
      >
    </p>
  {:else if divided && divided.over > 0 && !divided.isPrinted}
    <p class="text-warning leading-6" role="status">
      ! {divided.over.toLocaleString('en-GB')} more {divided.over === 1 ? 'lies' : 'lie'} in runs: it was divided when there were more.
      <button class="btn btn-xs" onclick={view.layAnew}>Lay it out as said here</button>
    </p>
  {/if}
</section>
