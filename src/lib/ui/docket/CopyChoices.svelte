<script lang="ts">
  import { counted } from '$core/units/counted';
  import { CHOICE_GROUPS, type ChoiceGroup } from '$lib/docket-choices';
  import type { DocketLine } from '$lib/server/dockets/docket-list';
  import { attempt, send } from '$lib/ui/common/client';
  import { fromServer } from '$lib/ui/list/source';

  interface Props {
    id: number;
    /** @returns whether all was saved */
    flush: () => Promise<boolean>;
  }
  let { id, flush }: Props = $props();

  let dialog: HTMLDialogElement;
  const WORDS: Record<ChoiceGroup, string> = {
    size: 'size, crop, turn and viewing distance',
    bleed: 'bleed',
    media: 'media, mode and intent',
    colour: 'roles, layers and black',
    layers: 'layers of ink, mirrored or not',
    cut: 'cut lines',
    finishing: 'marks, folds and eyelets',
    copies: 'number of copies',
    records: 'fields and records',
    wall: 'the wall and its panels',
    plates: 'how long its plates are kept'
  };
  let groups = $state<ChoiceGroup[]>(['bleed', 'media', 'colour']);
  let to = $state<number[]>([]);
  const found = fromServer<DocketLine>('dockets');
  let others = $state.raw<DocketLine[]>([]);
  let words = $state('');
  let asked = 0;
  async function look(): Promise<void> {
    const mine = ++asked;
    const { rows } = await found.page(new URLSearchParams({ q: words }), 0).catch(() => ({ rows: [] }));
    if (mine === asked) others = rows.filter((other) => other.id !== id);
  }
  export function open(): void {
    [to, words] = [[], ''];
    void look();
    dialog.showModal();
  }
  async function copy(): Promise<void> {
    if (!(await flush())) return;
    const done = await attempt(
      () => send('POST', `/api/dockets/${id}/copy`, { to, groups }),
      `Copied to ${counted(to.length, 'docket')}.`
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
      <input
        class="input input-sm mb-2 w-full"
        type="search"
        placeholder="Name, customer, note or number"
        aria-label="Find dockets to copy to"
        maxlength="200"
        bind:value={words}
        oninput={look}
      />
      {#each others as other (other.id)}
        <label class="flex items-center gap-2"
          ><input type="checkbox" class="checkbox checkbox-sm" value={other.id} bind:group={to} />{other.name}
          <span class="text-base-content/70">{other.customer}</span></label
        >
      {:else}<p>{words === '' ? 'There are no other dockets.' : 'No other docket is called that.'}</p>{/each}
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
