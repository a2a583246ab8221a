<script lang="ts">
  import type { RecipePart } from '$lib/recipes';
  import type { RecipeLine } from '$lib/server/automation/recipes';
  import { attempt, send } from '$lib/ui/common/client';

  /** A recipe on one docket or many: what it would change on the first is shown before. */
  let { ids, flush = async () => {} }: { ids: readonly number[]; flush?: () => Promise<unknown> } = $props();

  let dialog: HTMLDialogElement;
  let recipes = $state.raw<RecipeLine[]>([]);
  let chosen = $state<number | null>(null);
  let tried = $state.raw<{ changes: { part: RecipePart; was: string; is: string }[]; lacking: string[] } | null>(null);
  let sending = $state(false);
  let asked = 0;

  export function open(): void {
    [chosen, tried] = [null, null];
    void attempt(async () => (recipes = await send<RecipeLine[]>('GET', '/api/recipes')));
    dialog.showModal();
  }
  async function choose(id: number): Promise<void> {
    const mine = ++asked;
    [chosen, tried] = [id, null];
    await attempt(async () => {
      await flush();
      const found = await send<NonNullable<typeof tried>>('POST', '/api/recipes/try', { docket: ids[0], recipe: id });
      if (mine === asked) tried = found;
    });
  }
  async function apply(): Promise<void> {
    if (chosen === null || sending) return;
    sending = true;
    const name = recipes.find(({ id }) => id === chosen)?.recipe.name ?? '';
    const done = await attempt(
      () => send('POST', `/api/recipes/${chosen}/apply`, { dockets: ids }),
      ids.length === 1 ? `${name} is applied.` : `${name} is applied to ${ids.length} dockets.`
    );
    sending = false;
    if (done) dialog.close();
  }
</script>

<dialog bind:this={dialog} class="modal" aria-labelledby="apply-title">
  <form method="dialog" class="modal-box max-w-3xl">
    <h2 id="apply-title" class="text-lg font-semibold">
      Apply a recipe{ids.length > 1 ? ` to ${ids.length} dockets` : ''}
    </h2>
    {#if recipes.length === 0}
      <p class="mt-3">There are no recipes yet. Open a docket that is as it should be, and keep it as a recipe.</p>
    {:else}
      <div class="mt-3 flex gap-4">
        <fieldset class="border-base-300 max-h-80 w-64 shrink-0 overflow-auto border p-2">
          <legend class="sr-only">Recipe</legend>
          {#each recipes as { id, recipe } (id)}
            <label class="flex items-start gap-2 py-0.5"
              ><input
                type="radio"
                class="radio radio-sm mt-0.5"
                name="recipe"
                checked={chosen === id}
                onchange={() => choose(id)}
              />
              <span class="min-w-0"
                >{recipe.name}{#if recipe.note}<span class="text-base-content/70 block text-xs">{recipe.note}</span>{/if}</span
              ></label
            >
          {/each}
        </fieldset>
        <div class="min-w-0 grow" aria-live="polite">
          {#if chosen === null}<p class="text-base-content/70">Choose a recipe to see what it changes.</p>
          {:else if tried}
            <h3 class="panel-title">{ids.length > 1 ? 'What it changes on the first of them' : 'What it changes'}</h3>
            {#each tried.lacking as sentence (sentence)}<p class="text-error" role="alert">{sentence}</p>{/each}
            {#each tried.changes as { part, was, is } (part)}
              <p class="py-0.5"><span class="text-base-content/70 line-through">{was}</span> {is}</p>
            {:else}<p>Nothing: it is so already.</p>{/each}
          {/if}
        </div>
      </div>
    {/if}
    <div class="modal-action">
      <button class="btn btn-sm">Cancel</button>
      <button
        class="btn btn-sm btn-primary"
        type="button"
        disabled={chosen === null || sending || (tried?.lacking.length ?? 0) > 0}
        onclick={apply}>Apply it</button
      >
    </div>
  </form>
</dialog>
