<script lang="ts">
  import Check from '@lucide/svelte/icons/check';
  import Circle from '@lucide/svelte/icons/circle';
  import Clock from '@lucide/svelte/icons/clock-alert';
  import { STEP_WORDS, STEPS } from '$lib/calibration';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  const FROM = { measured: 'measured here', imported: 'taken from a file', start: 'as the machine says' };
</script>

<div class="flex items-center gap-4 p-4">
  <h1 class="text-lg font-semibold">Printing conditions</h1>
  <a class="btn btn-sm btn-primary" href="/colour/modes">New condition: find a print mode</a>
</div>
<table class="table">
  <thead
    ><tr
      ><th>Media</th><th>Machine</th><th>Print mode</th>{#each STEPS as step (step)}<th>{STEP_WORDS[step].name}</th>{/each}<th
        >Profile</th
      ></tr
    ></thead
  >
  <tbody>
    {#each data.conditions as condition (condition.id)}
      <tr class="hover:bg-base-200">
        <td><a class="link font-semibold" href="/colour/{condition.id}">{condition.media}</a></td>
        <td>{condition.machine}</td>
        <td>{condition.mode.name}, {condition.mode.quality}</td>
        {#each STEPS as step (step)}
          {@const { state } = condition.steps[step]}
          <td
            ><a href="/colour/{condition.id}?step={step}" class="inline-flex items-center gap-1 hover:underline"
              >{#if state === 'done'}<Check size={15} class="text-success" aria-hidden="true" />{:else if state === 'stale'}<Clock
                  size={15}
                  class="text-warning"
                  aria-hidden="true"
                />{:else}<Circle size={12} class="opacity-50" aria-hidden="true" />{/if}{state}</a
            ></td
          >
        {/each}
        <td>{condition.profile ? FROM[condition.profile] : 'being made…'}</td>
      </tr>
    {:else}
      <tr
        ><td colspan="9" class="p-6"
          >A printing condition is a machine with a media in a print mode. It is climbed in five steps, from the ink limits to a
          verified profile. {data.machines.some((machine) => machine.kind === 'printer')
            ? 'Find a print mode to begin with.'
            : 'Add a printer under Shop first.'}</td
        ></tr
      >
    {/each}
  </tbody>
</table>
