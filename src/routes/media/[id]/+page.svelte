<script lang="ts">
  import { page } from '$app/state';
  import CardDesk from '$lib/ui/media/CardDesk.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

{#key page.params.id}
  <CardDesk media={data.media} tables={data.tables} conditions={data.conditions} currency={data.settings.currency} />
{/key}
