<script lang="ts">
  import { untrack } from 'svelte';
  import { attempt, send } from '$lib/ui/common/client';
  import { live } from '$lib/ui/common/live.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  const printers = $derived(data.machines.filter((machine) => machine.kind === 'printer'));
  let form = $state(
    untrack(() => ({
      media: '',
      surface: 'gloss' as 'gloss' | 'matt',
      costPerM2: 5,
      machineId: data.machines.find((m) => m.kind === 'printer')?.id ?? 0
    }))
  );
  const building = (id: number) =>
    live.task('profile', id, data.openTasks.find((task) => task.kind === 'profile' && task.subject === String(id)) ?? null);

  async function add(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (await attempt(() => send('POST', '/api/conditions', form), `${form.media} is added; its profile is being built.`))
      form.media = '';
  }
</script>

<table class="table">
  <thead
    ><tr
      ><th>Media</th><th>Machine</th><th>Print mode</th><th>Surface</th><th class="text-right">Roll, mm</th><th class="text-right"
        >Cost a m²</th
      ><th>Profile</th></tr
    ></thead
  >
  <tbody>
    {#each data.conditions as condition (condition.id)}
      {@const task = building(condition.id)}
      {@const machine = data.machines.find((m) => m.id === condition.machineId)}
      <tr>
        <td class="font-semibold">{condition.media}{machine?.printer?.media.name === condition.media ? ', loaded' : ''}</td>
        <td>{condition.machine}</td>
        <td>{condition.mode.name}</td>
        <td>{condition.surface}</td>
        <td class="text-right">{Math.round(condition.rollWidthMm)}</td>
        <td class="text-right">{data.settings.currency}{condition.costPerM2.toFixed(2)}</td>
        <td
          >{#if condition.hasProfile}<a class="link" href="/api/conditions/{condition.id}/profile" download
              >built from the machine’s own model</a
            >{:else if task?.state === 'failed'}
            failed: {task.error}
            <button class="btn btn-xs" onclick={() => attempt(() => send('POST', '/api/conditions', { ...condition }))}
              >Build it again</button
            >
          {:else}being built…{/if}</td
        >
      </tr>
    {:else}
      <tr
        ><td colspan="7" class="p-6"
          >No media yet. A media on a machine, with its print mode and colour profile, is what dockets are printed on. {printers.length ===
          0
            ? 'Add a machine under Shop first.'
            : 'Add the first one below.'}</td
        ></tr
      >
    {/each}
  </tbody>
</table>

{#if printers.length > 0}
  <form class="border-base-300 m-4 flex flex-wrap items-end gap-3 border-t pt-4" onsubmit={add} aria-label="Add a media">
    <label class="text-sm"
      >Name, as the machine calls it<input
        class="input input-sm flex w-64"
        bind:value={form.media}
        required
        maxlength="80"
      /></label
    >
    <label class="text-sm"
      >Machine<select class="select select-sm flex w-40" bind:value={form.machineId}
        >{#each printers as machine (machine.id)}<option value={machine.id}>{machine.name}</option>{/each}</select
      ></label
    >
    <label class="text-sm"
      >Surface<select class="select select-sm flex w-28" bind:value={form.surface}
        ><option value="gloss">gloss</option><option value="matt">matt</option></select
      ></label
    >
    <label class="text-sm"
      >Cost a m²<input
        class="input input-sm flex w-24 text-right"
        type="number"
        min="0"
        step="0.01"
        bind:value={form.costPerM2}
      /></label
    >
    <button class="btn btn-sm btn-primary" disabled={!form.media.trim()}>Add media</button>
  </form>
{/if}
