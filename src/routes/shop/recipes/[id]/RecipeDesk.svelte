<script lang="ts">
  import ArrowLeft from '@lucide/svelte/icons/arrow-left';
  import { onMount, untrack } from 'svelte';
  import { recipeWords } from '$lib/recipe-words';
  import { Recipe } from '$lib/recipes';
  import type { KeptRecipe } from '$lib/server/automation/recipes';
  import { attempt, docketPicture, send } from '$lib/ui/common/client';
  import { Draft } from '$lib/ui/common/draft.svelte';
  import RecipeParts from '$lib/ui/recipes/RecipeParts.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();

  const keptOf = ({ version, recipe }: KeptRecipe) => ({ version, value: recipe });

  /** What is being changed; kept whole when it is done, and not before. */
  const draft = untrack(
    () => new Draft(`recipe ${data.recipe.id}`, keptOf(data.recipe), (waits) => Recipe.safeParse(waits).data)
  );
  onMount(() => draft.restore());
  $effect(() => {
    const now = keptOf(data.recipe);
    untrack(() => draft.adopt(now));
  });
  const change = (part: Partial<Recipe>) => draft.change({ ...draft.current, ...part });
  const names = $derived({ unit: data.settings.unit, conditions: data.conditions, machines: data.machines, jigs: data.jigs });
  const keep = () =>
    attempt(async () => {
      const { version, current: recipe } = draft;
      draft.kept(keptOf(await send<KeptRecipe>('PUT', `/api/recipes/${data.recipe.id}`, { version, recipe })), recipe);
    }, 'Kept.');
  const back = (recipe: Recipe) => change(recipe);
  const when = (at: number) => new Date(at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
  const carried = $derived([
    ...data.carriedBy.folders.map((path) => ({ words: `of what is put into the folder ${path}`, href: '/artwork/in-tray' })),
    ...data.carriedBy.printers.map((name) => ({ words: `of what is printed on ${name}`, href: '/artwork/in-tray' })),
    ...data.carriedBy.rules.map((place) => ({ words: `by rule ${place} for what comes in`, href: '/shop/recipes' }))
  ]);
  /** What a version said that this one does not. */
  const differs = (other: Recipe) => {
    const now = new Set(recipeWords(draft.current.sets, names).map(({ words }) => words));
    return recipeWords(other.sets, names)
      .map(({ words }) => words)
      .filter((words) => !now.has(words));
  };
</script>

<svelte:head><title>{draft.current.name}</title></svelte:head>
<div class="max-w-5xl space-y-5 p-6">
  <header class="flex items-center gap-2">
    <a class="btn btn-ghost btn-sm btn-square" href="/shop/recipes" aria-label="All recipes"><ArrowLeft size={18} /></a>
    <input
      class="in-sentence min-w-0 grow text-lg"
      aria-label="Name of the recipe"
      maxlength="80"
      value={draft.current.name}
      oninput={(event) => change({ name: event.currentTarget.value })}
    />
    {#if draft.isChanged}<button class="btn btn-sm" onclick={() => draft.drop()}>As it was</button>{/if}
    <button class="btn btn-sm btn-primary" disabled={!draft.isChanged || draft.current.name.trim() === ''} onclick={keep}
      >Keep the change</button
    >
  </header>
  {#if data.recipe.gone}<p class="text-error" role="alert">
      This recipe was deleted.
      <button class="btn btn-xs" onclick={() => attempt(() => send('POST', `/api/recipes/${data.recipe.id}/back`), 'It is back.')}
        >Bring it back</button
      >
    </p>{/if}
  {#if draft.isOverNewer}<p class="text-error" role="alert">
      It was changed in another window meanwhile. <button class="btn btn-xs" onclick={() => draft.drop()}>Show that one</button>
    </p>{/if}
  <div class="flex flex-wrap gap-4">
    <label class="grow"
      ><span class="panel-title block">Note</span><input
        class="input input-sm w-full"
        maxlength="500"
        value={draft.current.note}
        oninput={(event) => change({ note: event.currentTarget.value })}
      /></label
    >
    <label
      ><span class="panel-title block">Builds on</span><select
        class="select select-sm"
        value={draft.current.on ?? ''}
        onchange={(event) => change({ on: event.currentTarget.value === '' ? null : Number(event.currentTarget.value) })}
      >
        <option value="">no other</option>
        {#each data.others as { id, name } (id)}<option value={id}>{name}</option>{/each}
      </select></label
    >
  </div>
  <section aria-label="What it sets">
    <h2 class="panel-title">What it sets; the rest is left alone</h2>
    <RecipeParts all={draft.current.sets} sets={draft.current.sets} {names} onchange={(sets) => change({ sets })} />
    <p class="text-base-content/70 mt-1 text-sm">
      To have it set more, open a docket, press “Keep as a recipe”, and let it take the place of this one.
    </p>
  </section>
  <section aria-label="What carries it">
    <h2 class="panel-title">Dockets are made by it</h2>
    <ul>
      {#each carried as { words, href } (words)}<li><a class="link inline-block py-0.5" {href}>{words}</a></li>{:else}<li>
          by hand alone. In the <a class="link" href="/artwork/in-tray">in-tray</a> a folder or a printer can carry it.
        </li>{/each}
    </ul>
  </section>
  <section aria-label="What it was applied to">
    <h2 class="panel-title">Applied to</h2>
    {#if data.made.length === 0}<p>No docket yet.</p>{/if}
    <ul class="mt-1 flex flex-wrap gap-3">
      {#each data.made as docket (docket.id)}<li class="w-40">
          <a class="link block" href="/dockets/{docket.id}"
            ><img
              class="border-base-300 bg-base-100 h-24 w-40 border object-contain p-1"
              src={docketPicture(docket, 240)}
              alt=""
              loading="lazy"
            /><span class="block truncate">{docket.name}</span></a
          ><span class="text-base-content/70 block truncate text-xs">{docket.customer}</span>
        </li>{/each}
    </ul>
  </section>
  {#if data.versions.length > 0}
    <section aria-label="As it was before">
      <h2 class="panel-title">As it was before</h2>
      <table class="table-sm table">
        <tbody>
          {#each data.versions as { version: number, recipe, madeAt } (number)}
            <tr
              ><td class="whitespace-nowrap">{when(madeAt)}</td><td>{differs(recipe).join(' ') || 'It set no more than now.'}</td
              ><td class="text-right"><button class="btn btn-xs" onclick={() => back(recipe)}>Take this one</button></td></tr
            >
          {/each}
        </tbody>
      </table>
    </section>
  {/if}
</div>
