<script lang="ts">
  import type { PlatesKept } from '$lib/model';
  import CountBox from '$lib/ui/common/CountBox.svelte';

  /** How long plates are kept once they are printed. */
  let { kept, onchange }: { kept: PlatesKept; onchange: (kept: PlatesKept) => void } = $props();

  const USUAL_DAYS = 30;
  const by = $derived(typeof kept === 'number' ? 'days' : kept);
</script>

<select
  class="in-sentence"
  aria-label="How long plates are kept"
  value={by}
  onchange={(event) => {
    const { value } = event.currentTarget;
    onchange(value === 'days' ? USUAL_DAYS : (value as 'as the shop' | 'always'));
  }}
>
  <option value="as the shop">as long as the shop says</option><option value="always">until a person deletes them</option>
  <option value="days">for some days</option>
</select>{#if typeof kept === 'number'}: <CountBox label="Days that plates are kept" value={kept} min={1} max={3650} {onchange} />
{/if}
