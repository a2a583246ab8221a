<script lang="ts">
  import { docketPicture } from '$lib/ui/common/client';
  import { atRest } from './at-rest';

  /** The first dockets of a row, as they will print. */
  let { dockets }: { dockets: readonly { id: number; version: number }[] } = $props();
</script>

<div class="flex h-11 items-center gap-1 overflow-hidden">
  {#each dockets as docket (docket.id)}
    <img class="max-h-11 max-w-20 min-w-0 object-contain" alt="" {@attach atRest(docketPicture(docket, 240))} />
  {/each}
</div>
