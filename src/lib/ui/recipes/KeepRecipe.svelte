<script lang="ts">
  import type { DocketDocument } from '$lib/docket-choices';
  import type { RecipeNames } from '$lib/recipe-words';
  import { setsOf, type RecipeSets } from '$lib/recipes';
  import type { KeptRecipe, RecipeLine } from '$lib/server/automation/recipes';
  import { attempt, docketPicture, send } from '$lib/ui/common/client';
  import RecipeParts from './RecipeParts.svelte';

  /** Keeps choices of the docket in front of one as a recipe: all that is ticked, in one go. */
  let {
    docket,
    document,
    names,
    flush
  }: {
    docket: { id: number; version: number };
    document: DocketDocument;
    names: RecipeNames;
    /** @returns whether all was saved */
    flush: () => Promise<boolean>;
  } = $props();

  let dialog: HTMLDialogElement;
  let all = $state.raw<RecipeSets>({});
  let sets = $state.raw<RecipeSets>({});
  let recipes = $state.raw<RecipeLine[]>([]);
  let name = $state('');
  let note = $state('');
  let on = $state<number | null>(null);
  /** The recipe that it takes the place of. */
  let instead = $state<number | null>(null);
  let sending = $state(false);

  export function open(): void {
    all = setsOf(document);
    // What most recipes are for; what belongs to this one artwork is left to be ticked.
    const { bleed, media, jig, mayTurn, colour, layers, tone, cut, finishing } = all;
    sets = {
      ...(bleed && { bleed: { ...bleed, when: bleed.mm > 0 ? ('missing' as const) : ('always' as const) } }),
      ...(media && { media }),
      ...(jig && { jig }),
      ...(mayTurn !== undefined && { mayTurn }),
      ...(colour && { colour }),
      ...(layers && { layers }),
      ...(tone && { tone }),
      ...(cut && { cut: { ...cut, when: cut.cut && cut.lines.made.length > 0 ? ('missing' as const) : ('always' as const) } }),
      ...(finishing && { finishing })
    };
    [name, note, on, instead] = ['', '', null, null];
    void attempt(async () => (recipes = await send<RecipeLine[]>('GET', '/api/recipes')));
    dialog.showModal();
  }
  function take(id: number | null): void {
    instead = id;
    const other = recipes.find((one) => one.id === id);
    if (other) [name, note, on] = [other.recipe.name, other.recipe.note, other.recipe.on];
  }
  const wrong = $derived(
    name.trim() === '' ? 'Give it a name.' : Object.keys(sets).length === 0 && on === null ? 'Tick what it shall set.' : ''
  );
  async function keep(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (wrong || sending) return;
    sending = true;
    if (!(await flush())) {
      sending = false;
      return;
    }
    const recipe = { name: name.trim(), note, on, sets };
    const other = recipes.find((one) => one.id === instead);
    const done = await attempt(
      () =>
        other
          ? send<KeptRecipe>('PUT', `/api/recipes/${other.id}`, { version: other.version, recipe })
          : send<KeptRecipe>('POST', '/api/recipes', recipe),
      `The recipe ${recipe.name} is kept.`
    );
    sending = false;
    if (done) dialog.close();
  }
</script>

<dialog bind:this={dialog} class="modal" aria-labelledby="recipe-title">
  <form class="modal-box flex max-h-[calc(100vh-3rem)] max-w-4xl flex-col" onsubmit={keep}>
    <h2 id="recipe-title" class="text-lg font-semibold">Keep as a recipe</h2>
    <div class="mt-3 flex gap-4">
      <img class="bg-base-300 h-36 w-48 object-contain" src={docketPicture(docket, 240)} alt="" />
      <div class="min-w-0 grow space-y-2">
        <label class="block"
          ><span class="panel-title">Name</span>
          <input class="input input-sm w-full" maxlength="80" bind:value={name} autocomplete="off" /></label
        >
        <label class="block"
          ><span class="panel-title">Note</span>
          <input class="input input-sm w-full" maxlength="500" bind:value={note} placeholder="When it is used" /></label
        >
        <div class="flex flex-wrap gap-3">
          <label
            ><span class="panel-title block">Builds on</span>
            <select class="select select-sm" bind:value={on}>
              <option value={null}>no other</option>
              {#each recipes.filter(({ id }) => id !== instead) as { id, recipe } (id)}<option value={id}>{recipe.name}</option
                >{/each}
            </select></label
          >
          <label
            ><span class="panel-title block">Takes the place of</span>
            <select
              class="select select-sm"
              value={instead ?? ''}
              onchange={(event) => take(event.currentTarget.value === '' ? null : Number(event.currentTarget.value))}
            >
              <option value="">none: it is new</option>
              {#each recipes as { id, recipe } (id)}<option value={id}>{recipe.name}</option>{/each}
            </select></label
          >
        </div>
      </div>
    </div>
    <h3 class="panel-title mt-4">What it sets; the rest is left alone</h3>
    <div class="border-base-300 min-h-0 grow overflow-auto border-y">
      <RecipeParts {all} {sets} {names} onchange={(next) => (sets = next)} />
    </div>
    <div class="modal-action mt-3 items-center">
      <span class="text-sm">{wrong}</span>
      <button class="btn btn-sm" type="button" onclick={() => dialog.close()}>Cancel</button>
      <button class="btn btn-sm btn-primary" disabled={wrong !== '' || sending}>Keep it</button>
    </div>
  </form>
</dialog>
