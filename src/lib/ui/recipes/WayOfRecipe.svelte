<script lang="ts">
  import { WAYS, type Way } from '$lib/arrivals';

  /** By which recipe dockets are made, and how far they go by themselves: the end of a sentence. */
  let {
    of,
    recipes,
    recipeId = $bindable(),
    way = $bindable(),
    despiteLooks = $bindable()
  }: {
    /** Whose recipe it is, for who hears it. */
    of: string;
    recipes: readonly { id: number; name: string }[];
    recipeId: number | null;
    way: Way;
    despiteLooks: boolean;
  } = $props();

  const WORDS: Record<Way, string> = {
    'make dockets': 'and left for a person to lay out',
    'lay out': 'and laid out in their lanes',
    release: 'laid out and released to print'
  };
</script>

becomes dockets
<select class="in-sentence" aria-label="Recipe of the {of}" bind:value={recipeId}>
  <option value={null}>as they are made by hand</option>
  {#each recipes as { id, name } (id)}<option value={id}>by {name}</option>{/each}
</select>,
<select class="in-sentence" aria-label="How far it goes" bind:value={way}>
  {#each WAYS as one (one)}<option value={one}>{WORDS[one]}</option>{/each}
</select>{#if way !== 'make dockets'}
  <span class="ms-1">when its checks are fine;</span>
  <select class="in-sentence" aria-label="What is to be looked at" bind:value={despiteLooks}>
    <option value={false}>what is to be looked at waits</option>
    <option value={true}>what is to be looked at goes on</option>
  </select>{/if}.
