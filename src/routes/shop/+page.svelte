<script lang="ts">
  import { untrack } from 'svelte';
  import { attempt, send } from '$lib/ui/common/client';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  let settings = $state(untrack(() => ({ ...data.settings, cutNames: data.settings.cutNames.join('\n') })));
  let machine = $state({ kind: 'printer', name: '', url: '' });

  const save = () =>
    attempt(
      () =>
        send('PUT', '/api/settings', {
          ...settings,
          cutNames: settings.cutNames
            .split('\n')
            .map((name) => name.trim())
            .filter(Boolean)
        }),
      'Kept.'
    );

  async function addMachine(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (await attempt(() => send('POST', '/api/machines', machine), `${machine.name} is added.`))
      machine = { ...machine, name: '', url: '' };
  }
</script>

<div class="grid max-w-5xl grid-cols-2 gap-10 p-6">
  <section aria-label="The shop" class="space-y-3">
    <h1 class="text-lg font-semibold">The shop</h1>
    <label class="block text-sm"
      >Name<input class="input input-sm flex w-full" bind:value={settings.shopName} maxlength="80" onchange={save} /></label
    >
    <div class="flex gap-3">
      <label class="block text-sm"
        >Unit for lengths<select class="select select-sm flex w-28" bind:value={settings.unit} onchange={save}
          ><option>mm</option><option>cm</option><option>in</option></select
        ></label
      >
      <label class="block text-sm"
        >Currency<input class="input input-sm flex w-20" bind:value={settings.currency} maxlength="4" onchange={save} /></label
      >
      <label class="block text-sm"
        >Ink, a ml<input
          class="input input-sm flex w-24 text-right"
          type="number"
          min="0"
          step="0.01"
          bind:value={settings.inkCostPerMl}
          onchange={save}
        /></label
      >
    </div>
    <label class="block text-sm">
      Names of spot colours that are cut lines, one a line
      <textarea class="textarea textarea-sm flex w-full font-mono" rows="5" bind:value={settings.cutNames} onchange={save}
      ></textarea>
    </label>
    <p class="text-base-content/70 text-xs">
      Case, spaces and hyphens do not matter. When the list changes, all artwork is looked at anew.
    </p>
  </section>
  <section aria-label="Machines" class="space-y-3">
    <h2 class="text-lg font-semibold">Machines</h2>
    <ul class="space-y-1 text-sm">
      {#each data.machines as one (one.id)}
        <li class="border-base-300 flex justify-between border-b py-1">
          <span><span class="font-semibold">{one.name}</span>, {one.kind}, {one.url}</span><span class:text-error={!one.online}
            >{one.online ? 'answers' : 'not reachable'}</span
          >
        </li>
      {:else}
        <li>No machines yet. Give the address at which a printer speaks IPP, or a cutter answers.</li>
      {/each}
    </ul>
    <form class="flex flex-wrap items-end gap-2" onsubmit={addMachine} aria-label="Add a machine">
      <label class="text-sm"
        >Kind<select class="select select-sm flex w-28" bind:value={machine.kind}
          ><option value="printer">printer</option><option value="cutter">cutter</option></select
        ></label
      >
      <label class="text-sm"
        >Name<input class="input input-sm flex w-32" bind:value={machine.name} required maxlength="60" /></label
      >
      <label class="text-sm"
        >Address<input
          class="input input-sm flex w-52"
          placeholder="http://127.0.0.1:8631"
          bind:value={machine.url}
          required
        /></label
      >
      <button class="btn btn-sm btn-primary">Add machine</button>
    </form>
    <p class="text-base-content/70 text-xs">
      Other programs can use the JSON interface; it is listed at <a class="link" href="/api">/api</a>.
    </p>
  </section>
</div>
