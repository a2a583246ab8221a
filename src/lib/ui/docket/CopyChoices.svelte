<script lang="ts">
  import { CHOICE_GROUPS, type ChoiceGroup } from '$lib/model';
  import { attempt, send } from '$lib/ui/common/client';

  interface Props {
    id: number;
    others: readonly { id: number; name: string; customer: string }[];
    flush: () => Promise<void>;
  }
  let { id, others, flush }: Props = $props();

  let dialog: HTMLDialogElement;
  const WORDS: Record<ChoiceGroup, string> = {
    size: 'size, crop and turn',
    bleed: 'bleed',
    media: 'media, mode and intent',
    colour: 'roles, layers and black',
    cut: 'cut lines',
    finishing: 'marks, folds and eyelets',
    copies: 'number of copies'
  };
  let groups = $state<ChoiceGroup[]>(['bleed', 'media', 'colour']);
  let to = $state<number[]>([]);
  export function open(): void {
    to = [];
    dialog.showModal();
  }
  async function copy(): Promise<void> {
    await flush();
    const done = await attempt(
      () => send('POST', `/api/dockets/${id}/copy`, { to, groups }),
      `Copied to ${to.length} ${to.length === 1 ? 'docket' : 'dockets'}.`
    );
    if (done) dialog.close();
  }
</script>

<dialog bind:this={dialog} class="modal" aria-labelledby="copy-title">
  <form method="dialog" class="modal-box max-w-xl">
    <h2 id="copy-title" class="text-lg font-semibold">Copy choices to other dockets</h2>
    <fieldset class="my-3 grid grid-cols-2 gap-1">
      <legend class="panel-title mb-1">What</legend>
      {#each Object.keys(CHOICE_GROUPS) as ChoiceGroup[] as group (group)}
        <label class="flex items-center gap-2"
          ><input type="checkbox" class="checkbox checkbox-sm" value={group} bind:group={groups} />{WORDS[group]}</label
        >
      {/each}
    </fieldset>
    <fieldset class="border-base-300 max-h-60 overflow-auto border p-2">
      <legend class="panel-title">To</legend>
      {#each others as other (other.id)}
        <label class="flex items-center gap-2"
          ><input type="checkbox" class="checkbox checkbox-sm" value={other.id} bind:group={to} />{other.name}
          <span class="text-base-content/70">{other.customer}</span></label
        >
      {:else}<p>There are no other dockets.</p>{/each}
    </fieldset>
    <div class="modal-action">
      <button class="btn btn-sm">Cancel</button>
      <button
        class="btn btn-sm btn-primary"
        type="button"
        disabled={to.length === 0 || groups.length === 0}
        title={to.length === 0 ? 'Choose a docket first' : ''}
        onclick={copy}>Copy</button
      >
    </div>
  </form>
</dialog>
