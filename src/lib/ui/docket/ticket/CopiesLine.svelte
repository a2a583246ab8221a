<script lang="ts">
  import { hasRecords } from '$core/records/choices';
  import type { TicketFigures } from '../ticket-layout';
  import CountBox from '$lib/ui/common/CountBox.svelte';
  import type { TicketView } from './ticket';

  let { view, layout }: { view: TicketView; layout: TicketFigures | undefined } = $props();
  const { choices } = $derived(view);
  const records = $derived(hasRecords(choices.records));
  /** As they were counted when it was saved, where records say how many. */
  const copies = $derived(records ? view.docket.choices.copies : choices.copies);
  const free = $derived(layout?.free ?? 0);
</script>

<section aria-label="Copies">
  <h2 class="panel-title leading-4">Copies</h2>
  <p>
    {#if records}
      <span class="font-semibold">{copies.toLocaleString('en-GB')}</span>
    {:else}
      <CountBox sentence label="Copies" value={choices.copies} onchange={(copies) => view.change({ copies })} />
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
      on the roll.{/if}
    {#if free > 0}<span class="text-base-content/70">{free} more would cost no film.</span>{/if}
  </p>
</section>
