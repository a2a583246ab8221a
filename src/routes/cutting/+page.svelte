<script lang="ts">
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const WORDS = {
    waiting: 'waits for the cutter',
    loaded: 'lies in the cutter',
    registered: 'marks found',
    cutting: 'being cut',
    cut: 'cut'
  } as const;
</script>

<table class="table">
  <thead><tr><th>Cut task</th><th>State</th><th>Dockets</th><th>Run</th><th></th></tr></thead>
  <tbody>
    {#each data.cuts as cut (cut.id)}
      <tr class="hover:bg-base-200">
        <td><a class="font-semibold hover:underline" href="/cutting/{cut.id}">{cut.code}</a></td>
        <td>{WORDS[cut.state]}</td>
        <td>{cut.names.join(', ')}</td>
        <td><a class="link" href="/runs/{cut.runId}">Run {cut.runId}</a></td>
        <td class="text-right"><a class="btn btn-sm" href="/cutting/{cut.id}">{cut.state === 'cut' ? 'Look' : 'Cut'}</a></td>
      </tr>
    {:else}
      <tr><td colspan="5" class="p-6">Nothing to cut. A print whose dockets are cut comes here by itself when it is done.</td></tr
      >
    {/each}
  </tbody>
</table>
