<script lang="ts">
  import type { PlatesKept } from '$lib/docket-choices';
  import ChoiceBox from '$lib/ui/common/ChoiceBox.svelte';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';

  /** How long plates are kept once they are printed. */
  let { kept, onchange }: { kept: PlatesKept; onchange: (kept: PlatesKept) => void } = $props();

  const USUAL_DAYS = 30;
  const by = $derived(typeof kept === 'number' ? 'days' : kept);
</script>

<ChoiceBox
  label="How long plates are kept"
  value={by}
  words={[
    ['as the shop', 'as long as the shop says'],
    ['always', 'until a person deletes them'],
    ['days', 'for some days']
  ]}
  onchange={(by) => onchange(by === 'days' ? USUAL_DAYS : by)}
/>{#if typeof kept === 'number'}: <FigureBox
    sentence
    label="Days that plates are kept"
    value={kept}
    min={1}
    max={3650}
    {onchange}
  /> days
{/if}
