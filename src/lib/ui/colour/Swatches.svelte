<script lang="ts">
  import type { Triple } from '$core/colour/lab';
  import { screenColour } from './show';

  /** A colour as it is asked for, and beside it what comes of it. */
  let { asked, reached, large = false }: { asked: Triple; reached?: Triple | null | undefined; large?: boolean } = $props();
</script>

<span class="inline-flex shrink-0 {large ? 'h-24 w-40' : 'h-6 w-12'}" aria-hidden="true"
  ><span class="grow" style:background={screenColour(asked)}></span>{#if reached}<span
      class="grow"
      style:background={screenColour(reached)}
    ></span>{/if}</span
>
