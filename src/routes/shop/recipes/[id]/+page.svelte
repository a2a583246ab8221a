<script lang="ts">
  import type { PageProps } from './$types';
  import RecipeDesk from './RecipeDesk.svelte';

  let { data }: PageProps = $props();
</script>

{#key data.recipe.id}
  <RecipeDesk {data} />
{/key}
