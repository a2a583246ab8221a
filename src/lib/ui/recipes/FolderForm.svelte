<script lang="ts">
  import { untrack } from 'svelte';
  import { counted } from '$core/units/counted';
  import { copiesOf, USUAL_COPIES, type WatchedFolder } from '$lib/arrivals';
  import { Refusal } from '$lib/ui/common/client';
  import WayOfRecipe from './WayOfRecipe.svelte';

  /** How a folder is watched, in sentences. */
  let {
    folder,
    recipes,
    onkeep,
    oncancel
  }: {
    folder: WatchedFolder | null;
    recipes: readonly { id: number; name: string }[];
    onkeep: (folder: WatchedFolder) => Promise<unknown>;
    oncancel: () => void;
  } = $props();

  const NEW: WatchedFolder = {
    path: '',
    recipeId: null,
    way: 'make dockets',
    despiteLooks: false,
    customers: true,
    copies: USUAL_COPIES,
    tables: true,
    isOn: true,
    withAll: false
  };
  let draft = $state<WatchedFolder>(untrack(() => ({ ...(folder ?? NEW) })));
  let wrong = $state('');
  /** Something lies there already, and the person has to say that it is meant. */
  let isFilled = $state(false);
  let sending = $state(false);
  const example = $derived.by(() => {
    const name = `Sign${draft.copies.replace('#', '24')}.pdf`;
    const copies = copiesOf(name, draft.copies);
    return copies === undefined ? '' : `${name} is ${counted(copies, 'copy', 'copies')}`;
  });
  async function keep(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (sending) return;
    [sending, wrong] = [true, ''];
    try {
      await onkeep($state.snapshot(draft));
    } catch (error) {
      wrong = error instanceof Error ? error.message : String(error);
      isFilled = error instanceof Refusal && 'withAll' in error.fields;
    }
    sending = false;
  }
</script>

<form class="border-base-300 space-y-2 border p-3 leading-7" onsubmit={keep}>
  <label class="block"
    ><span class="panel-title">Folder on the server</span><input
      class="input input-sm w-full"
      maxlength="1000"
      required
      placeholder="Counter, or /mnt/share/print"
      bind:value={draft.path}
      autocomplete="off"
      spellcheck="false"
    /></label
  >
  <p class="text-base-content/70 text-sm leading-5">
    A name alone is made under the shop’s own data folder. Take a folder for this alone: all that lies in it is moved to “taken”
    or “refused” there.
  </p>
  <p>
    What arrives
    <WayOfRecipe
      of="folder"
      {recipes}
      bind:recipeId={draft.recipeId}
      bind:way={draft.way}
      bind:despiteLooks={draft.despiteLooks}
    />
  </p>
  <p>
    <select class="in-sentence" aria-label="Folders in it" bind:value={draft.customers}>
      <option value={true}>Folders in it are customers</option><option value={false}>Folders in it say nothing</option>
    </select>. A name says the number of copies as
    <input
      class="in-sentence w-20"
      aria-label="Pattern of copies"
      maxlength="40"
      bind:value={draft.copies}
      spellcheck="false"
    />{example ? `: ${example}` : draft.copies === '' ? ', which means not at all' : ''}.
  </p>
  <p>
    <select class="in-sentence" aria-label="Tables beside artwork" bind:value={draft.tables}>
      <option value={true}>A table with the name of artwork beside it is its records</option>
      <option value={false}>Tables beside artwork say nothing</option>
    </select>{draft.tables ? ': Badges.csv beside Badges.pdf.' : '.'}
  </p>
  {#if isFilled}<label class="flex items-start gap-2"
      ><input type="checkbox" class="checkbox checkbox-sm mt-1" bind:checked={draft.withAll} />All files that lie there now are
      meant to be taken and moved aside.</label
    >{/if}
  {#if wrong}<p class="text-error leading-5" role="alert">{wrong}</p>{/if}
  <div class="flex justify-end gap-2">
    <button class="btn btn-sm" type="button" onclick={oncancel}>Cancel</button>
    <button class="btn btn-sm btn-primary" disabled={draft.path.trim() === '' || sending}
      >{folder ? 'Keep it' : 'Watch it'}</button
    >
  </div>
</form>
