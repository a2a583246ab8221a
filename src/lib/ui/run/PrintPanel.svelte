<script lang="ts">
  import { formatFigure, formatMetres } from '$core/units/length';
  import type { CutTask } from '$lib/server/cutting/cutting';
  import type { Machine } from '$lib/server/machines/machines';
  import type { Print } from '$lib/server/printing/print';
  import type { Run } from '$lib/server/production/run';
  import CountBox from '$lib/ui/common/CountBox.svelte';
  import { attempt, send } from '$lib/ui/common/client';
  import { live } from '$lib/ui/common/live.svelte';
  import Progress from '$lib/ui/common/Progress.svelte';

  interface Props {
    run: Run;
    /** `restFrom`: where in the run one that broke off can go on, mm. */
    prints: (Print & { restFrom: number | null })[];
    machines: Machine[];
    /** By machine: why it cannot print this run now. */
    hindrances: Record<number, string>;
    cuts: CutTask[];
  }
  let { run, prints, machines, hindrances, cuts }: Props = $props();

  let times = $state(1);
  let chosen = $state<number | null>(null);
  const printers = $derived(machines.filter((machine) => machine.kind === 'printer'));
  const machineId = $derived(chosen ?? printers.find((machine) => hindrances[machine.id] === '')?.id ?? run.condition.machineId);
  const why = $derived(hindrances[machineId] ?? 'There is no such machine.');
  let busy = $state(false);
  let shown = $state<number | null>(null);

  const STATES: Record<Print['state'], string> = {
    sending: 'Sending',
    printing: 'Printing',
    stopped: 'Stopped',
    done: 'Done',
    cancelled: 'Cancelled',
    failed: 'Failed'
  };

  async function print(): Promise<void> {
    busy = true;
    await attempt(() => send('POST', `/api/runs/${run.id}/print`, { machineId, times }));
    busy = false;
  }
</script>

<section aria-label="Print" class="border-base-300 border-y py-3">
  <h2 class="panel-title mb-1">Print</h2>
  <div class="flex flex-wrap items-center gap-2 text-sm">
    <select
      class="select select-sm w-36"
      aria-label="Machine"
      value={machineId}
      onchange={(event) => (chosen = Number(event.currentTarget.value))}
    >
      {#each printers as machine (machine.id)}<option value={machine.id}>{machine.name}</option>{/each}
    </select>
    <CountBox label="Times" value={times} max={100} onchange={(count) => (times = count)} />
    <span>{times === 1 ? 'time' : 'times'}</span>
    <button class="btn btn-sm btn-primary ml-auto" disabled={why !== '' || busy} onclick={print}>Print</button>
  </div>
  {#if why}<p class="mt-1 text-xs">{why}</p>{/if}
  <ul class="mt-2 space-y-2 text-sm">
    {#each prints.slice(0, 8) as print (print.id)}
      {@const now = live.prints.get(print.id)}
      {@const state = (now?.state ?? print.state) as Print['state']}
      {@const cut = cuts.find((task) => task.printId === print.id)}
      <li>
        {#if print.endedAt === null && state !== 'done'}
          <Progress
            label={STATES[state]}
            share={state === 'sending' ? (now?.sentShare ?? 0) : (now?.printedMm ?? print.printedMm) / print.lengthMm}
            secondsLeft={now?.secondsLeft ?? null}
            oncancel={() => attempt(() => send('DELETE', `/api/prints/${print.id}`))}
          />
          {#if now?.reason ?? print.reason}<p class="text-error text-xs" role="alert">{now?.reason ?? print.reason}</p>{/if}
        {:else}
          <div class="flex items-center gap-2">
            <span class="font-semibold" class:text-error={print.state === 'failed'}>{STATES[print.state]}</span>
            <span
              >{formatMetres(print.printedMm)}, {formatFigure(
                print.inkMl.reduce((sum, ml) => sum + ml, 0),
                1
              )} ml</span
            >
            <span class="ml-auto flex gap-1">
              {#if print.printedMm > 0}<button class="btn btn-xs" onclick={() => (shown = print.id)}>See what came out</button
                >{/if}
              {#if cut}<a class="btn btn-xs {cut.state === 'cut' ? '' : 'btn-primary'}" href="/cutting/{cut.id}"
                  >{cut.state === 'cut' ? 'Cut' : 'To the cutter'}</a
                >{/if}
            </span>
          </div>
          {#if print.restFrom !== null && print === prints[0]}
            <button
              class="btn btn-xs mt-1"
              disabled={why !== ''}
              onclick={() => attempt(() => send('POST', `/api/prints/${print.id}/rest`))}
            >
              Go on from {formatMetres(print.restFrom)}
            </button>
          {/if}
          {#if print.reason}<p class="text-xs" class:text-error={print.state === 'failed'}>{print.reason}</p>{/if}
        {/if}
      </li>
    {/each}
  </ul>
</section>

{#if shown !== null}
  <dialog class="modal" open aria-label="What came out">
    <div class="modal-box max-w-5xl">
      <h2 class="mb-2 text-lg font-semibold">What came out of the machine, print {shown}</h2>
      <div class="bg-base-300 max-h-[70vh] overflow-auto p-3">
        <img src="/api/prints/{shown}/output" alt="What came out of the machine" class="mx-auto" style="max-width: 100%" />
      </div>
      <div class="modal-action">
        <a class="btn btn-sm" href="/api/prints/{shown}/output" target="_blank" rel="noreferrer">At full size</a>
        <button class="btn btn-sm" onclick={() => (shown = null)}>Close</button>
      </div>
    </div>
  </dialog>
{/if}
