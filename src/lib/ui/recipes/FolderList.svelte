<script lang="ts">
  import { counted } from '$core/units/counted';
  import type { WatchedFolder } from '$lib/arrivals';
  import { WAY_WORDS } from '$lib/recipe-words';
  import type { FolderState } from '$lib/server/automation/folder-watching';
  import type { KeptFolder } from '$lib/server/automation/watched-folders';
  import { attempt, send } from '$lib/ui/common/client';
  import FolderForm from './FolderForm.svelte';

  /** The folders that are watched, and how they are. */
  let {
    folders,
    states,
    recipes
  }: { folders: readonly KeptFolder[]; states: readonly FolderState[]; recipes: readonly { id: number; name: string }[] } =
    $props();

  let editing = $state<number | 'new' | null>(null);
  const keepNew = async (folder: WatchedFolder) => {
    await send('POST', '/api/folders', folder);
    editing = null;
  };
  const keep = (kept: KeptFolder) => async (folder: WatchedFolder) => {
    await send('PUT', `/api/folders/${kept.id}`, { version: kept.version, folder });
    editing = null;
  };
  const stop = (kept: KeptFolder) =>
    attempt(() => send('DELETE', `/api/folders/${kept.id}`), `${kept.folder.path} is watched no more; what lies there stays.`);
  const stateOf = (id: number) => states.find((one) => one.id === id);
  const recipeName = (id: number) => recipes.find((one) => one.id === id)?.name ?? 'a recipe that is gone';
</script>

<section class="space-y-3" aria-label="Watched folders">
  <header class="flex items-center gap-2">
    <h2 class="panel-title grow">Watched folders</h2>
    {#if editing !== 'new'}<button class="btn btn-xs btn-primary" onclick={() => (editing = 'new')}>Watch a folder</button>{/if}
  </header>
  {#if editing === 'new'}<FolderForm folder={null} {recipes} onkeep={keepNew} oncancel={() => (editing = null)} />{/if}
  {#each folders as kept (kept.id)}
    {@const state = stateOf(kept.id)}
    {#if editing === kept.id}
      <FolderForm folder={kept.folder} {recipes} onkeep={keep(kept)} oncancel={() => (editing = null)} />
    {:else}
      <article class="border-base-300 border p-3" aria-label={kept.folder.path}>
        <h3 class="font-semibold break-all">{kept.folder.path}</h3>
        <p class="text-base-content/70 text-xs break-all" title={kept.path}>
          {kept.path.endsWith(kept.folder.path) && kept.path !== kept.folder.path
            ? 'in the shop’s own data folder'
            : 'on the server’s disk'}
        </p>
        <p class="mt-1">
          Dockets {kept.folder.recipeId === null ? 'as by hand' : `by ${recipeName(kept.folder.recipeId)}`}, {WAY_WORDS[
            kept.folder.way
          ]}{kept.folder.way !== 'make dockets' && kept.folder.despiteLooks ? ', also what is to be looked at' : ''}{kept.folder
            .customers
            ? '; folders in it are customers'
            : ''}.
        </p>
        {#if !kept.folder.isOn}<p class="font-semibold">Switched off.</p>
        {:else if state?.trouble}<p class="text-error" role="alert">{state.trouble}</p>
        {:else if state && state.waiting > 0}<p role="status">
            {counted(state.waiting, 'file')} being looked at.
          </p>{/if}
        <p class="mt-2 flex gap-1">
          <button class="btn btn-xs" onclick={() => (editing = kept.id)} aria-label="Change {kept.folder.path}">Change</button>
          <button
            class="btn btn-xs"
            onclick={() => attempt(() => keep(kept)({ ...kept.folder, isOn: !kept.folder.isOn }))}
            aria-label="{kept.folder.isOn ? 'Switch off' : 'Switch on'} {kept.folder.path}"
            >{kept.folder.isOn ? 'Switch off' : 'Switch on'}</button
          >
          <button class="btn btn-xs" onclick={() => stop(kept)} aria-label="Watch {kept.folder.path} no more"
            >Watch no more</button
          >
        </p>
      </article>
    {/if}
  {:else}
    {#if editing !== 'new'}<p class="text-sm leading-5">
        A folder on the server’s disk whose files become dockets by themselves, by a recipe. What was taken is moved to “taken” in
        it; what cannot be printed to “refused”, with a text that says why.
      </p>{/if}
  {/each}
</section>
