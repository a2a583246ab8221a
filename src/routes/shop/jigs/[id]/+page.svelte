<script lang="ts">
  import { page } from '$app/state';
  import JigDesk from '$lib/ui/jig/JigDesk.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<svelte:head><title>{data.kept.jig.name}</title></svelte:head>
{#key page.params.id}
  <JigDesk kept={data.kept} unit={data.settings.unit} conditions={data.printedOn} />
{/key}
