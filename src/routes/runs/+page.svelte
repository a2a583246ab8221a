<script lang="ts">
  import { formatMetres } from '$core/units/length';
  import { live } from '$lib/ui/common/live.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
</script>

<table class="table">
  <thead
    ><tr
      ><th>Run</th><th>State</th><th>Media</th><th>Dockets</th><th class="text-right">Length</th><th class="text-right">Waste</th
      ><th></th></tr
    ></thead
  >
  <tbody>
    {#each data.runs as run (run.id)}
      {@const { layout } = run}
      {@const task = live.task('rip', run.id, run.task)}
      <tr class="hover:bg-base-200">
        <td><a class="font-semibold hover:underline" href="/runs/{run.id}">Run {run.id}</a></td>
        <td
          >{run.releasedAt !== null && run.state === 'ripped'
            ? 'released, waits'
            : run.state === 'ripping' && task
              ? `at the RIP, ${Math.round(task.share * 100)} %`
              : run.stale
                ? 'RIPped, layout changed since'
                : run.state === 'ripped'
                  ? 'RIPped'
                  : run.state}</td
        >
        <td>{run.condition.media}, {run.condition.mode.name}</td>
        <td class="max-w-96 truncate"
          >{run.dockets.map((docket, i) => `${run.entries[i]?.copies ?? docket.choices.copies} × ${docket.name}`).join(', ')}</td
        >
        <td class="text-right text-base font-semibold"
          >{run.stock.kind === 'sheet' ? `${layout.parts.length * run.times} sheets` : formatMetres(layout.length)}</td
        >
        <td class="text-right">{Math.round(layout.wasteShare * 100)} %</td>
        <td class="text-right"
          >{#if run.result}<a class="btn btn-sm" href="/runs/{run.id}/inspect">Inspect</a>{/if}</td
        >
      </tr>
    {:else}
      <tr
        ><td colspan="7" class="p-6"
          >No runs yet. A run is dockets laid out together on one roll. <a class="link" href="/dockets"
            >Tick dockets and lay them out</a
          ></td
        ></tr
      >
    {/each}
  </tbody>
</table>
