<script lang="ts">
  import { PRIORITIES, type DocketDocument } from '$lib/docket-choices';
  import PlatesChoice from '../PlatesChoice.svelte';
  import type { TicketView } from './ticket';

  let { view }: { view: TicketView } = $props();
  const { docket } = $derived(view);
</script>

<section aria-label="Due and note">
  <h2 class="panel-title leading-4">Due and note</h2>
  <p>
    Due
    <input
      class="in-sentence"
      type="date"
      aria-label="Due date"
      value={docket.dueOn}
      onchange={(event) => view.changeDocument({ dueOn: event.currentTarget.value })}
    />, of
    <select
      class="in-sentence"
      aria-label="Priority"
      value={docket.priority}
      onchange={(event) => view.changeDocument({ priority: event.currentTarget.value as DocketDocument['priority'] })}
    >
      {#each PRIORITIES as priority (priority)}<option>{priority}</option>{/each}
    </select>
    priority. Once printed, its plates are kept
    <PlatesChoice kept={view.choices.platesKept} onchange={(platesKept) => view.change({ platesKept })} />.
  </p>
  <textarea
    class="textarea textarea-sm mt-1 w-full leading-5"
    rows="2"
    placeholder="A note for whoever prints it"
    aria-label="Note"
    maxlength="2000"
    value={docket.note}
    oninput={(event) => view.changeDocument({ note: event.currentTarget.value })}></textarea>
</section>
