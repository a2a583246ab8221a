<script lang="ts">
  import type { PageProps } from './$types';
  import ToneDesk from './ToneDesk.svelte';

  let { data }: PageProps = $props();
</script>

<!-- Another docket, or another condition, is another desk. -->
{#key `${data.docket.id} ${data.condition?.id}`}
  <ToneDesk {data} />
{/key}
