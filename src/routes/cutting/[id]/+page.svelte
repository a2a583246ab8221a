<script lang="ts">
  import type { PageProps } from './$types';
  import CutDesk from './CutDesk.svelte';

  let { data }: PageProps = $props();
</script>

<!-- Another print is another desk: the cutter and the knives that were chosen for this one are not the other's. -->
{#key data.cut.id}
  <CutDesk {data} />
{/key}
