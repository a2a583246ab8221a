<script lang="ts">
  import type { PageProps } from './$types';
  import WallDesk from './WallDesk.svelte';

  let { data }: PageProps = $props();
</script>

<!-- Another docket is another desk: what waits to be saved of this one never meets the other. -->
{#key data.docket.id}
  <WallDesk {data} />
{/key}
