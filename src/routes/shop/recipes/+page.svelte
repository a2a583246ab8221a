<script lang="ts">
  import { goto } from '$app/navigation';
  import { toast } from 'svelte-sonner';
  import { recipeWords } from '$lib/recipe-words';
  import type { KeptRecipe, RecipeLine } from '$lib/server/automation/recipes';
  import { attempt, send } from '$lib/ui/common/client';
  import { once } from '$lib/ui/common/once';
  import RulesOfIntake from '$lib/ui/recipes/RulesOfIntake.svelte';
  import { early } from '$lib/ui/common/early';
  import { chosenJson } from '$lib/ui/common/json-file';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  const names = $derived({ unit: data.settings.unit, conditions: data.conditions, machines: data.machines, jigs: data.jigs });
  const said = ({ recipe }: RecipeLine) => recipeWords(recipe.sets, names).map(({ words }) => words);
  const nameOf = (id: number | null) => data.recipes.find((one) => one.id === id)?.recipe.name ?? '';
  const foldersOf = (id: number) => data.folders.filter(({ folder }) => folder.recipeId === id).map(({ folder }) => folder.path);
  const day = (at: number) => new Date(at).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });

  const remove = once(({ id, recipe }: RecipeLine) =>
    attempt(async () => {
      await send('DELETE', `/api/recipes/${id}`);
      const back = () => void attempt(() => send('POST', `/api/recipes/${id}/back`), `${recipe.name} is back.`);
      toast(`${recipe.name} is deleted.`, { duration: 15_000, action: { label: 'Bring it back', onClick: back } });
    })
  );
  const bring = ({ currentTarget: input }: Event & { currentTarget: HTMLInputElement }) =>
    attempt(async () => {
      const file = await chosenJson(input, 'recipe');
      if (file === undefined) return;
      const { id } = await send<KeptRecipe>('POST', '/api/recipes/file', file);
      await goto(`/shop/recipes/${id}`);
    });
</script>

<svelte:head><title>Recipes</title></svelte:head>
<div class="max-w-6xl space-y-5 p-6">
  <header class="flex flex-wrap items-center gap-2">
    <h1 class="text-lg font-semibold">Recipes</h1>
    <div class="grow"></div>
    <a class="link text-sm" href="/artwork/in-tray">In-tray and watched folders</a>
    <label class="btn btn-sm"
      >From a file<input type="file" {@attach early} class="sr-only" accept=".json,application/json" onchange={bring} /></label
    >
  </header>
  {#if data.recipes.length === 0}
    <p class="max-w-prose">
      What is done every day is said once. Open a docket that is as it should be and press “Keep as a recipe”: tick what it shall
      set, and the rest is left alone. Then apply it to other dockets, or give it to a folder whose files become dockets by
      themselves.
    </p>
    <p><a class="btn btn-sm btn-primary" href="/dockets">Go to the dockets</a></p>
  {:else}
    <table class="table-sm table">
      <thead
        ><tr><th>Name</th><th>What it sets</th><th class="text-right">Dockets</th><th>Last used</th><th>Folders</th><th></th></tr
        ></thead
      >
      <tbody>
        {#each data.recipes as line (line.id)}
          {@const words = said(line)}
          <tr class="align-top">
            <td class="w-56"
              ><a class="link font-semibold" href="/shop/recipes/{line.id}">{line.recipe.name}</a>
              {#if line.recipe.note}<span class="text-base-content/70 block text-xs">{line.recipe.note}</span>{/if}
              {#if line.recipe.on !== null}<span class="block text-xs">builds on {nameOf(line.recipe.on)}</span>{/if}</td
            >
            <td>{words.slice(0, 4).join(' ')}{words.length > 4 ? ` And ${words.length - 4} more.` : ''}</td>
            <td class="text-right">{line.used}</td>
            <td class="whitespace-nowrap">{line.usedAt === null ? '' : day(line.usedAt)}</td>
            <td>{foldersOf(line.id).join(', ')}</td>
            <td class="text-right whitespace-nowrap"
              ><a class="btn btn-xs" href="/api/recipes/{line.id}/file" download aria-label="Write {line.recipe.name} to a file"
                >To a file</a
              >
              <button class="btn btn-xs" onclick={() => remove(line)} aria-label="Delete {line.recipe.name}">Delete</button></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    <RulesOfIntake
      kept={data.rules}
      recipes={data.recipes.map(({ id, recipe }) => ({ id, name: recipe.name }))}
      medias={[...new Set(data.conditions.map(({ media }) => media))]}
      unit={data.settings.unit}
    />
  {/if}
</div>
