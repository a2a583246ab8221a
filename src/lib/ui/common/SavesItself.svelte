<script lang="ts" generics="T">
  import { beforeNavigate } from '$app/navigation';
  import { isBehindDialog, isTyping } from '$lib/ui/frame/places';
  import type { Edits } from './history.svelte';

  /** Says whether all is saved, and takes back, by a press or a key. Nothing is left behind with the page. */
  let { edits }: { edits: Edits<T> } = $props();

  beforeNavigate(() => void edits.flush());

  function keys(event: KeyboardEvent): void {
    if (isBehindDialog() || isTyping(event) || !(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return;
    event.preventDefault();
    if (event.shiftKey) edits.redo();
    else edits.undo();
  }
</script>

<svelte:window onkeydown={keys} onbeforeunload={(event) => edits.holdPage(event)} />
<span role="status" class="text-base-content/70 text-sm"
  >{edits.pending || edits.saving ? 'Saving…' : edits.canUndo || edits.canRedo ? 'Saved' : 'Changes save themselves.'}</span
>
<button class="btn btn-xs" disabled={!edits.canUndo} aria-label="Take back the last change" onclick={() => edits.undo()}
  >Take back</button
>
