<script lang="ts">
  import { hasRecords } from '$core/records/choices';
  import { counted } from '$core/units/counted';
  import type { TicketView } from './ticket';

  let { view }: { view: TicketView } = $props();

  const { records } = $derived(view.choices);
  const { table, fields } = $derived(records);
</script>

<section aria-label="Records">
  <h2 class="panel-title leading-4">Records</h2>
  <p>
    {#if hasRecords(records)}
      {counted(table?.count ?? 0, 'record')} of <span class="font-semibold break-all">{table?.name}</span> in {counted(
        fields.length,
        'field'
      )}{records.only ? `, of them ${records.only}` : ''}.
    {:else if table}
      {counted(table.count, 'record')} of <span class="font-semibold break-all">{table.name}</span>, and no field that says
      anything of them.
    {:else if fields.length > 0}
      {counted(fields.length, 'field')}, and no table that fills them: they print nothing.
    {:else}
      All copies are the same.
    {/if}
    <a class="btn btn-xs ml-1" href="/dockets/{view.docket.id}/records"
      >{table || fields.length > 0 ? 'See them' : 'Give it records'}</a
    >
  </p>
</section>
