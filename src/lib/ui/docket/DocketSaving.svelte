<script lang="ts">
  import { beforeNavigate } from '$app/navigation';
  import { untrack } from 'svelte';
  import { toast } from 'svelte-sonner';
  import type { Docket } from '$lib/server/dockets/dockets';
  import { attempt } from '$lib/ui/common/client';
  import { isBehindDialog } from '$lib/ui/frame/places';
  import type { DocketEdits } from './docket-edits.svelte';

  /** Has a page’s docket follow what the page has loaded, be saved before it is left, and be taken back by key; says what is refused. */
  interface Props {
    edits: DocketEdits;
    loaded: Docket;
  }
  const { edits, loaded }: Props = $props();

  $effect(() => {
    const docket = loaded;
    untrack(() => edits.adopt(docket));
  });
  beforeNavigate(() => void edits.flush());
  $effect(() => {
    if (edits.away) toast.error(edits.away, { id: 'away' });
    if (edits.refused) toast.error(edits.refused, { id: 'refused' });
  });

  // In a box too: what is typed there counts at each key, and is a step as all else is.
  function keys(event: KeyboardEvent): void {
    if (isBehindDialog() || !(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return;
    // A form is sent by a press: until then what is typed there is nothing of the docket.
    if (event.target instanceof Element && event.target.closest('form')) return;
    event.preventDefault();
    void attempt(() => edits.step(event.shiftKey ? 1 : -1));
  }
</script>

<svelte:window onkeydown={keys} onbeforeunload={(event) => edits.holdPage(event)} />
