<script lang="ts">
  import type { PageProps } from './$types';
  import RunDesk from './RunDesk.svelte';

  let { data }: PageProps = $props();
</script>

<!-- Another run is another desk: what waits to be saved of this one never comes into the other. -->
{#key data.run.id}
  <RunDesk {data} />
{/key}
