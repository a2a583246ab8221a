<script lang="ts">
  import BookOpen from '@lucide/svelte/icons/book-open';
  import BookmarkPlus from '@lucide/svelte/icons/bookmark-plus';
  import Copy from '@lucide/svelte/icons/copy';
  import type { DocketDocument } from '$lib/docket-choices';
  import StepButtons from '$lib/ui/common/StepButtons.svelte';
  import type { DocketEdits } from './docket-edits.svelte';

  /** Whose docket it is, what is done with it as a whole, and whether it is saved. */
  interface Props {
    edits: DocketEdits;
    onchange: (part: Partial<DocketDocument>) => void;
    onapply: () => void;
    onkeep: () => void;
    oncopy: () => void;
    onstep: (by: -1 | 1) => unknown;
  }
  const { edits, onchange, onapply, onkeep, oncopy, onstep }: Props = $props();
  const acts = $derived([
    { label: 'Apply a recipe', Icon: BookOpen, act: onapply },
    { label: 'Keep as a recipe', Icon: BookmarkPlus, act: onkeep },
    { label: 'Copy choices to other dockets', Icon: Copy, act: oncopy }
  ]);
</script>

<header class="border-base-300 border-b p-4 pb-3">
  <div class="flex items-center gap-2">
    <input
      class="in-sentence min-w-0 grow text-lg"
      aria-label="Name of the docket"
      value={edits.current.name}
      maxlength="120"
      oninput={(event) => event.currentTarget.value.trim() && onchange({ name: event.currentTarget.value })}
    />
    {#each acts as { label, Icon, act } (label)}
      <button class="btn btn-sm btn-ghost btn-square" onclick={act} aria-label={label} title={label}><Icon size={16} /></button>
    {/each}
    <StepButtons {edits} {onstep} />
  </div>
  <div class="text-base-content/70 mt-1 text-sm">
    Docket {edits.docket.id} for
    <input
      class="in-sentence"
      aria-label="Customer"
      placeholder="a customer"
      value={edits.current.customer}
      maxlength="120"
      oninput={(event) => onchange({ customer: event.currentTarget.value })}
    />
    <span class="float-right" role="status">{edits.saving || edits.unsaved ? 'Saving…' : 'Saved'}</span>
  </div>
</header>
