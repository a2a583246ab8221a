<script lang="ts">
  import { shopUnit } from '$lib/ui/common/shop-unit';
  import { fieldInWords } from './changes';
  import type { OtherWindow } from './docket-edits.svelte';

  let { other, onmine, onclose }: { other: OtherWindow; onmine: () => void; onclose: () => void } = $props();
</script>

<section class="border-warning bg-base-200 border-l-4 p-3 text-sm" role="alert" aria-label="Changed in another window">
  <h2 class="font-semibold">Changed in another window</h2>
  <ul class="my-1">
    {#each other.changes as change (change.key)}
      <li>
        {change.label}: {fieldInWords(change.key, change.before, shopUnit())} →
        <span class="font-semibold">{fieldInWords(change.key, change.after, shopUnit())}</span>
      </li>
    {/each}
  </ul>
  {#if other.lost.length > 0}
    <p>
      You changed {other.lost.map(({ change }) => change.label.toLowerCase()).join(', ')} too ({other.lost
        .map(({ change }) => fieldInWords(change.key, change.before, shopUnit()))
        .join(', ')}); the other window was first.
    </p>
    <button class="btn btn-xs" onclick={onmine}>Use mine</button>
  {/if}
  <button class="btn btn-xs" onclick={onclose}>{other.lost.length > 0 ? 'Keep theirs' : 'Seen'}</button>
</section>
